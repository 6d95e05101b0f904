import Joi from 'joi';
import { error } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';
import type { MessageOrder } from '../../../../../core/search/orders.ts';
import { answered } from '$lib/server/web/answers.ts';
import { decideOnMessages, loadMessages, sheetFields } from '$lib/server/web/messages-page.ts';

const PAGE = 50;

const askedSchema = Joi.object<{ sort: MessageOrder | ''; page: number }>(sheetFields);

export const load: PageServerLoad = async ({ locals, params, url }) => {
	const mailboxId = Number(params.mailbox);
	const read = askedSchema.validate(Object.fromEntries(url.searchParams), { stripUnknown: true });
	const { sort, page } = read.error ? { sort: '' as const, page: 1 } : read.value;
	const { mailbox, folders } = await answered(
		locals.office.ask('mailboxFolders', { mailboxId, tree: 'mailbox' }, locals.who)
	);
	const at = folders.findIndex(({ id }) => id === Number(params.folder));
	const folder = folders[at];
	if (!folder) error(404, 'There is no such folder in this mailbox any more.');
	const behind = folders.slice(at + 1);
	const next = behind.findIndex(({ depth }) => depth <= folder.depth);
	const below = next < 0 ? behind : behind.slice(0, next);
	const search = { query: '', mailbox: mailboxId, states: ['live' as const], narrowing: { folder: folder.id } };
	return {
		mailbox,
		folder,
		subfolders: below.filter(({ depth }) => depth === folder.depth + 1),
		...(await loadMessages(locals, search, { sort: sort || 'newest', page, pageSize: PAGE }))
	};
};

export const actions: Actions = { decide: decideOnMessages };
