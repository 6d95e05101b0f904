import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { jsonAction } from '$lib/server/web/json-action.ts';
import { loadMessages, readMessagesAddress } from '$lib/server/web/messages-page.ts';
import { WRITING_KINDS, type WritingKind } from '../../../../../core/writing/answer.ts';

const THREAD_SHOWN = 50;

interface Asked {
	as: WritingKind;
	item: number | undefined;
	id: number | undefined;
}
const number = Joi.number().integer().positive();
const fields = { as: Joi.valid(...WRITING_KINDS).default('new'), item: number, id: number };

export const load: PageServerLoad = async ({ locals, params, url }) => {
	const { office, who } = locals;
	const mailboxId = Number(params.mailbox);
	const asked = readMessagesAddress<Asked>(url.searchParams, fields);
	const mail = await answered(
		office.ask('beginMail', { mailboxId, kind: asked.as, itemId: asked.item, id: asked.id }, who)
	);
	// once it has gone, its thread is decided on here
	const thread = await loadMessages(
		locals,
		{ sort: 'newest', page: 1, threads: false },
		{ query: `thread:${mail.original?.threadId ?? 0}`, mailbox: mailboxId, states: ['live', 'archived'] },
		{ pageSize: THREAD_SHOWN }
	);
	return {
		mail,
		sheet: thread.sheet,
		canSend: (await answered(office.ask('showOutgoing', { mailboxId }, who))).canSend
	};
};

export const actions: Actions = {
	keep: jsonAction('storeMail', ({ id }) => ({ kept: id })),
	send: jsonAction('writeAndSend', (sent) => ({ sent })),
	decide: jsonAction('decideAtDesk', (decided) => ({ decided })),
	await: jsonAction('awaitAnswer', (decided) => ({ decided }))
};
