import { fail } from '@sveltejs/kit';
import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { DUE_ACTIONS, type DueAction } from '../../core/retention/terms.ts';
import { type Decision, decisionsOn, ruleOf } from '../../core/docket/decisions.ts';
import { answered, attempted } from '$lib/server/web/answers.ts';
import { daysMeant } from '$lib/server/retention/due.ts';
import type { Scope } from '$lib/server/docket/show-docket.ts';
import { retainingOptions } from '$lib/server/web/retention-door.ts';

export const load: PageServerLoad = async ({ locals, url }) => {
	const asked = Number(url.searchParams.get('mailbox'));
	const mailboxId = Number.isInteger(asked) && asked > 0 ? asked : undefined;
	return { mailboxId, overview: await answered(locals.office.ask('dueOverview', { mailboxId }, locals.who)) };
};

interface Wish {
	decision: Decision;
	options: Record<string, never>;
	action: DueAction;
	/** By mailbox: a docket is that of one. */
	items?: { mailboxId: number; ids: number[] }[];
	/** Instead of single ones: all of a row. */
	all?: { mailboxId: number; date: string; retentionId: number; folderId: number };
}

const wishSchema = Joi.object<Wish>({
	decision: Joi.string()
		.valid(...decisionsOn('due'))
		.required(),
	options: Joi.object({ ...retainingOptions, because: Joi.string().max(500), until: Joi.string().max(10) }).default({}),
	action: Joi.string()
		.valid(...DUE_ACTIONS)
		.required(),
	items: Joi.array()
		.items(
			Joi.object({
				mailboxId: Joi.number().integer().positive().required(),
				ids: Joi.array().items(Joi.number().integer().positive()).min(1).max(10_000).required()
			})
		)
		.min(1)
		.max(1_000),
	all: Joi.object({
		mailboxId: Joi.number().integer().positive().required(),
		date: Joi.string()
			.pattern(/^\d{4}-\d{2}(-\d{2})?$/)
			.required(),
		retentionId: Joi.number().integer().min(0).required(),
		folderId: Joi.number().integer().min(0).required()
	})
}).xor('items', 'all');

function readWish(data: FormData): Wish | undefined {
	try {
		const { value, error } = wishSchema.validate(JSON.parse(String(data.get('wish'))));
		return error ? undefined : value;
	} catch {
		return undefined;
	}
}

export const actions: Actions = {
	/* What is decided on messages that are due. Destroying is a docket of its own. */
	decide: async ({ locals, request }) => {
		const wish = readWish(await request.formData());
		if (!wish) return fail(400, { message: 'The form did not come in whole. Nothing was done.' });
		const { decision, options, items = [], all, action } = wish;
		const today = await locals.office.ask('officeToday', undefined, locals.who);
		const drafted: number[] = [];
		const meant: { mailboxId: number; scope: Scope }[] = all
			? [
					{
						mailboxId: all.mailboxId,
						scope: {
							kind: 'due',
							action,
							...daysMeant(all.date, today),
							folderIds: [all.folderId],
							retentionIds: [all.retentionId],
							label: 'that are due'
						}
					}
				]
			: items.map(({ mailboxId, ids }) => ({
					mailboxId,
					scope: ruleOf(decision).needsEndedPeriod
						? { kind: 'due', action, by: today, ids, label: 'whose period has ended' }
						: { kind: 'items', ids, label: 'that are due' }
				}));
		for (const { mailboxId, scope } of meant) {
			const line = { decision, options, scope };
			const done = await attempted(
				ruleOf(decision).needsEndedPeriod
					? locals.office.change('prepareDocket', { mailboxId, lines: [line] }, locals.who)
					: locals.office.change('decide', { mailboxId, line }, locals.who)
			);
			if ('refused' in done) return fail(done.status, { message: done.refused, drafted });
			drafted.push(done.done.id);
		}
		return { drafted };
	}
};
