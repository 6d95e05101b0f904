import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { formAction, jsonField } from '$lib/server/web/form-action.ts';
import type { RetentionSetting } from '$lib/server/retention/index.ts';

export const load: PageServerLoad = async ({ locals, url, parent }) => {
	const { mailboxes } = await parent();
	const asked = Number(url.searchParams.get('mailbox'));
	const selected = mailboxes.find(({ id }) => id === asked) ?? mailboxes[0];
	// several mailboxes at once, if all are shown
	const shown = url.searchParams.get('mailbox') === 'all' ? mailboxes : selected ? [selected] : [];
	return {
		selected: url.searchParams.get('mailbox') === 'all' ? 'all' : String(selected?.id ?? ''),
		retained: await Promise.all(
			shown.map(({ id }) => answered(locals.office.ask('listRetained', { mailboxId: id }, locals.who)))
		),
		named: await answered(locals.office.ask('listNamed', undefined, locals.who))
	};
};

const BROKEN = 'The form did not come in whole. Nothing was changed.';
const schema = Joi.object<{ wish: RetentionSetting; because: string }>({
	wish: jsonField.required(),
	because: Joi.string().allow('').max(1_000).default('')
});

export const actions: Actions = {
	look: formAction(
		schema,
		async ({ wish }, { locals }) => ({ tried: await locals.office.ask('tryRetention', wish, locals.who) }),
		{ wrong: BROKEN }
	),
	save: formAction(
		schema,
		async (input, { locals }) => ({
			saved: true,
			...(await locals.office.change('setRetention', input, locals.who))
		}),
		{ wrong: BROKEN }
	)
};
