import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';
import { decideOnMessages, loadMessages, readMessagesAddress } from '$lib/server/web/messages-page.ts';

const PAGE = 50;

export const load: PageServerLoad = async ({ locals, params, url }) => {
	const mailboxId = Number(params.mailbox);
	const search = { query: '', mailbox: mailboxId, states: ['binned' as const], narrowing: { mailbox: mailboxId } };
	return {
		bin: await answered(locals.office.ask('listBin', { mailboxId, limit: 0 }, locals.who)),
		...(await loadMessages(locals, readMessagesAddress(url.searchParams), search, { sort: 'deleted', pageSize: PAGE }))
	};
};

const settingsSchema = Joi.object<{ binDays: number; emptiesBin?: string; confirmAbove: number }>({
	binDays: Joi.number().integer().required(),
	emptiesBin: Joi.string().allow(''),
	confirmAbove: Joi.number().integer().required()
});
export const actions: Actions = {
	empty: formAction(Joi.object<{ onlyDue?: string }>({ onlyDue: Joi.string() }), async (form, { locals, params }) => {
		const input = { mailboxId: Number(params.mailbox), onlyDue: form.onlyDue !== undefined };
		await locals.office.change('prepareEmptying', input, locals.who);
		return { drafted: true };
	}),
	decide: decideOnMessages,
	settings: formAction(
		settingsSchema,
		async ({ emptiesBin, ...settings }, { locals, params }) => {
			const input = { mailbox: Number(params.mailbox), ...settings, emptiesBin: emptiesBin !== undefined };
			await locals.office.change('setClearing', input, locals.who);
			return { set: true };
		},
		{ wrong: 'These settings are not complete. Nothing was changed.' }
	)
};
