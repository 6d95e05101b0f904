import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';

export const load: PageServerLoad = async ({ locals, params }) => ({
	standing: await answered(locals.office.ask('listStanding', { mailboxId: Number(params.mailbox) }, locals.who)),
	script: await answered(locals.office.ask('scriptOnServer', { mailboxId: Number(params.mailbox) }, locals.who)),
	live: (await answered(locals.office.ask('listSources', undefined, locals.who))).find(
		({ mailboxId }) => mailboxId === Number(params.mailbox)
	)
});

const id = Joi.number().integer().positive().required();

export const actions: Actions = {
	switch: formAction(
		Joi.object<{ id: number; isOn: boolean }>({ id, isOn: Joi.boolean().required() }),
		async (wish, { locals }) => {
			await locals.office.change('switchRule', wish, locals.who);
			return { switched: wish.isOn };
		}
	),
	remove: formAction(Joi.object<{ id: number }>({ id }), async (wish, { locals }) => {
		await locals.office.change('removeRule', wish, locals.who);
		return { removed: true };
	}),
	order: formAction(
		Joi.object<{ id: number; before: number | undefined }>({ id, before: Joi.number().integer().positive().empty('') }),
		async (wish, { locals }) => {
			await locals.office.change('moveRule', wish, locals.who);
			return { ordered: true };
		}
	),
	takeBack: formAction(
		Joi.object<{ id: number; since: string | undefined; until: string | undefined }>({
			id,
			since: Joi.string().isoDate().max(10).empty(''),
			until: Joi.string().isoDate().max(10).empty('')
		}),
		async (wish, { locals }) => {
			const { messages } = await locals.office.change('takeBackRule', wish, locals.who);
			return { takenBack: messages };
		}
	),
	put: formAction(
		Joi.object<{ port: number | undefined; replaces: boolean }>({
			port: Joi.number().integer().min(1).max(65_535).empty(''),
			replaces: Joi.boolean().default(false)
		}),
		async (wish, { locals, params }) => ({
			put: await locals.office.change('putScriptOnServer', { mailbox: Number(params.mailbox), ...wish }, locals.who)
		}),
		{ wrong: 'A port is a whole number from 1 to 65535. Nothing was done.' }
	),
	run: formAction(Joi.object({}), async (_form, { locals, params }) => {
		const { mailbox } = await answered(
			locals.office.ask('mailboxFolders', { mailboxId: Number(params.mailbox), tree: 'mailbox' }, locals.who)
		);
		await locals.office.start('runRules', { mailbox: mailbox.name }, locals.who);
		return { started: true };
	})
};
