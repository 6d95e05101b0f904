import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { AGE_PRESETS, cutoffFor, usualCutoff } from '../../../core/weigh/advice.ts';
import { readDate } from '../../../core/calendar.ts';
import { Refusal } from '$lib/server/refusal.ts';
import { answered, attempted } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';
import { selectedMailboxes } from '$lib/server/web/selection-address.ts';

export const load: PageServerLoad = async ({ locals, url }) => {
	const { office, who } = locals;
	const mailboxIds = selectedMailboxes(url.searchParams);
	const today = await answered(office.ask('officeToday', undefined, who));
	return {
		before: readDate(url.searchParams.get('before') ?? '') ?? usualCutoff(today),
		presets: AGE_PRESETS.map(({ months, name }) => ({ name, cutoff: cutoffFor(today, months) })),
		lines: await answered(office.ask('clearingTogether', { mailboxIds }, who))
	};
};

/* A docket with the counts that were shown: `id:messages:bytes`. */
const shownDocket = /^(\d{1,12}):(\d{1,15}):(\d{1,15})$/;

export const actions: Actions = {
	draft: formAction(
		Joi.object<{ before: string; leavesFlagged?: string }>({
			before: Joi.string().max(10).required(),
			leavesFlagged: Joi.string().allow('')
		}),
		async ({ before, leavesFlagged }, { locals, url }) => {
			const wish = {
				mailboxIds: selectedMailboxes(url.searchParams),
				before,
				leavesFlagged: leavesFlagged !== undefined
			};
			return { drafted: (await locals.office.change('decideArchivingTogether', wish, locals.who)).length };
		},
		{ wrong: 'Select a cutoff date. Nothing was drafted.' }
	),
	carryOut: formAction(
		Joi.object<{ docket: string[] }>({
			docket: Joi.array().items(Joi.string().pattern(shownDocket)).min(1).max(10_000).required()
		}),
		async ({ docket: shown }, { locals }) => {
			const refused: string[] = [];
			for (const one of shown) {
				const [, id, messages, bytes] = (shownDocket.exec(one) ?? []).map(Number) as [number, number, number, number];
				const begun = await attempted(
					locals.office.start('carryOut', { id, expected: { messages, bytes } }, locals.who)
				);
				if ('refused' in begun) refused.push(`Docket ${id}: ${begun.refused}`);
			}
			const others = shown.length - refused.length;
			if (refused.length > 0)
				throw new Refusal(
					'not-possible',
					`${refused.join(' ')} ${others === 0 ? 'No docket was begun.' : `The other ${others === 1 ? 'docket is' : `${others} dockets are`} being carried out.`}`
				);
			return { started: shown.length };
		},
		{ lists: ['docket'], wrong: 'The form did not come in whole. Nothing was done.' }
	)
};
