import Joi from 'joi';
import type { RequestEvent } from '@sveltejs/kit';
import { answered } from './answers.ts';
import { formAction } from './form-action.ts';
import { jsonAction } from './json-action.ts';
import { loadMessages, readMessagesAddress } from './messages-page.ts';
import { selectedMailboxes } from './selection-address.ts';

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

/* Of one mailbox the one in the address; else those selected; undefined: all. */
const mailboxesOf = ({ params, url }: Pick<RequestEvent, 'params' | 'url'>) =>
	params.mailbox === undefined ? selectedMailboxes(url.searchParams) : [Number(params.mailbox)];

type Folders = { folders: string[]; archiveFolders: string[] };

/* The folders of the mailboxes of some messages: those into which they can be moved. */
async function foldersOf({ office, who }: App.Locals, mailboxIds: Iterable<number>): Promise<Record<number, Folders>> {
	const paths = async (mailboxId: number, tree: 'mailbox' | 'archive') =>
		(await answered(office.ask('mailboxFolders', { mailboxId, tree }, who))).folders.map(({ path }) => path);
	const found: Record<number, Folders> = {};
	for (const id of new Set(mailboxIds))
		found[id] = { folders: await paths(id, 'mailbox'), archiveFolders: await paths(id, 'archive') };
	return found;
}

/** What lies on the desk of the mailboxes that an address names. */
export async function loadDesk({ locals, params, url }: Pick<RequestEvent, 'locals' | 'params' | 'url'>) {
	const { office, who } = locals;
	const mailboxIds = mailboxesOf({ params, url });
	const asked = readMessagesAddress<Asked>(url.searchParams, fields);
	const desk = await answered(office.ask('showDesk', { mailboxIds }, who));
	const saved = await answered(office.ask('listSaved', undefined, who));
	const search = saved.find(({ id }) => String(id) === asked.of);
	const query = search
		? (new URLSearchParams(search.question).get('q') ?? '')
		: (desk.bundles.find(({ bundle }) => bundle === asked.of)?.query ?? 'unread');
	const pile = desk.piles.find(({ folderId }) => `pile-${folderId}` === asked.of);
	const isWaited = asked.of === 'waited';
	const [only] = desk.mailboxes;
	const mailbox = desk.mailboxes.length === 1 ? only?.id : undefined;
	// a saved search looks in all folders, a bundle in the inbox
	const isInbox = !pile && !search && !isWaited;
	const folder = pile?.folderId ?? (isInbox ? desk.inbox.folderId : undefined);
	const gathered = isWaited
		? { of: 'waited' as const }
		: isInbox && mailbox === undefined
			? { of: 'inbox' as const }
			: undefined;
	const page = await loadMessages(
		locals,
		{ ...asked, threads: !asked.single, sort: asked.first, page: 1 },
		{
			query: pile ? '' : query,
			mailbox,
			mailboxIds: mailbox === undefined ? mailboxIds : undefined,
			states: ['live'],
			narrowing: { mailbox, ...(folder === undefined ? {} : { folder }) },
			...(gathered ? { gathered } : {})
		},
		{ pageSize: PAGE, sort: asked.first }
	);
	const hits = mailbox === undefined ? (page.sheet?.hits ?? []) : [];
	return {
		asked,
		desk,
		saved: saved.map(({ id, name }) => ({ id, name })),
		foldersOf: await foldersOf(
			locals,
			hits.map(({ mailboxId }) => mailboxId)
		),
		...page
	};
}

/** What a page of the desk shows. */
export type DeskPage = Awaited<ReturnType<typeof loadDesk>>;

const decided = jsonAction('decideAtDesk', (results) => ({ decided: results }));
const piled = jsonAction('putOnPile', (results) => ({ decided: results }));
const awaited = jsonAction('awaitAnswer', (results) => ({ decided: results }));
const closed = jsonAction('closeThread', (done) => ({ decided: done.decided, closed: done.rule }));
const lookedAtLists = formAction(Joi.object({}), async (_form, event) => {
	const { office, who } = event.locals;
	await office.change('noteListLook', { mailboxIds: mailboxesOf(event) }, who);
	return { looked: true };
});

/** Decisions at the desk. */
export const deskActions = {
	decide: decided,
	pile: piled,
	await: awaited,
	close: closed,
	lists: lookedAtLists
};
