import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';
import { jsonAction } from '$lib/server/web/json-action.ts';
import { loadMessages, readMessagesAddress } from '$lib/server/web/messages-page.ts';

/* So many messages are at hand; the next ones come with each decision. */
const PAGE = 25;

interface Asked {
	/** A bundle, or the number of a saved search. */
	of: string;
	first: 'newest' | 'oldest';
	/** Set to take each message of a thread by itself. */
	single: string;
}
const fields = {
	of: Joi.string().max(40).default('unread'),
	first: Joi.string().valid('newest', 'oldest').default('newest'),
	single: Joi.string().allow('').default('')
};

export const load: PageServerLoad = async ({ locals, params, url }) => {
	const { office, who } = locals;
	const mailboxId = Number(params.mailbox);
	const asked = readMessagesAddress<Asked>(url.searchParams, fields);
	const desk = await answered(office.ask('showDesk', { mailboxId }, who));
	const saved = await answered(office.ask('listSaved', undefined, who));
	const search = saved.find(({ id }) => String(id) === asked.of);
	const query = search
		? (new URLSearchParams(search.question).get('q') ?? '')
		: (desk.bundles.find(({ bundle }) => bundle === asked.of)?.query ?? 'unread');
	const pile = desk.piles.find(({ folderId }) => `pile-${folderId}` === asked.of);
	const isWaited = asked.of === 'waited';
	// a saved search looks in all folders, a bundle in the inbox
	const folder = pile?.folderId ?? (search || isWaited ? undefined : desk.inbox.folderId);
	const narrowing = { mailbox: mailboxId, ...(folder === undefined ? {} : { folder }) };
	return {
		asked,
		desk,
		saved: saved.map(({ id, name }) => ({ id, name })),
		...(await loadMessages(
			locals,
			{ ...asked, threads: !asked.single, sort: asked.first, page: 1 },
			{
				query: pile ? '' : query,
				mailbox: mailboxId,
				states: ['live'],
				narrowing,
				...(isWaited ? { gathered: { of: 'waited' as const } } : {})
			},
			{ pageSize: PAGE, sort: asked.first }
		))
	};
};

const decided = jsonAction('decideAtDesk', (results) => ({ decided: results }));
const piled = jsonAction('putOnPile', (results) => ({ decided: results }));
const awaited = jsonAction('awaitAnswer', (results) => ({ decided: results }));
const closed = jsonAction('closeThread', (done) => ({ decided: done.decided, closed: done.rule }));
const lookedAtLists = formAction(Joi.object({}), async (_form, { locals, params }) => {
	await locals.office.change('noteListLook', { mailboxId: Number(params.mailbox) }, locals.who);
	return { looked: true };
});

export const actions: Actions = {
	decide: decided,
	pile: piled,
	await: awaited,
	close: closed,
	lists: lookedAtLists
};
