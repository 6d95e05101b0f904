import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import type { RuleGiven } from '$lib/server/rules/index.ts';
import { answered } from '$lib/server/web/answers.ts';
import { formAction, jsonField } from '$lib/server/web/form-action.ts';

export const load: PageServerLoad = async ({ locals, params, url }) => {
	const { office, who } = locals;
	const mailboxId = Number(params.mailbox);
	const { mailbox, folders } = await answered(office.ask('mailboxFolders', { mailboxId, tree: 'mailbox' }, who));
	const { folders: archive } = await answered(office.ask('mailboxFolders', { mailboxId, tree: 'archive' }, who));
	const rules = await answered(office.ask('listRules', { mailbox: mailboxId }, who));
	const from = rules.find(({ id }) => id === Number(url.searchParams.get('from')));
	const listId = Number(url.searchParams.get('list'));
	const list = listId > 0 ? await office.ask('showList', { mailboxId, listId }, who).catch(() => undefined) : undefined;
	return {
		mailbox,
		folders: folders.filter(({ role }) => role !== 'trash').map(({ path }) => path),
		archiveFolders: archive.map(({ path }) => path),
		from: from ?? null,
		list: list ? { name: list.list.name, identifier: list.list.identifier, advice: list.advice, id: listId } : null,
		where: (url.searchParams.get('where') ?? '').slice(0, 1_000)
	};
};

const BROKEN = 'The form did not come in whole. Nothing was changed.';
const schema = Joi.object<{ rule: RuleGiven }>({ rule: jsonField.required() });

export const actions: Actions = {
	rehearse: formAction(
		schema,
		async ({ rule }, { locals, params }) => ({
			rehearsed: await locals.office.ask('rehearseRule', { mailbox: Number(params.mailbox), rule }, locals.who)
		}),
		{ wrong: BROKEN }
	),
	add: formAction(
		schema,
		async ({ rule }, { locals, params }) => {
			const { id } = await locals.office.change('addRule', { mailbox: Number(params.mailbox), rule }, locals.who);
			return { added: id };
		},
		{ wrong: BROKEN }
	),
	addPile: formAction(
		schema,
		async ({ rule }, { locals, params }) => {
			const { id } = await locals.office.change('addPileRule', { mailbox: Number(params.mailbox), rule }, locals.who);
			return { added: id };
		},
		{ wrong: BROKEN }
	)
};
