import { readBody } from '../../../core/message/body.ts';
import { readAddresses } from '../../../core/message/addresses.ts';
import { fieldValue } from '../../../core/message/header.ts';
import { divideText } from '../../../core/message/quoted.ts';
import { scanStructure } from '../../../core/message/structure.ts';
import { findOffer } from '../../../core/lists/offers.ts';
import { oneClick, readWays, type Way } from '../../../core/lists/ways.ts';
import type { Db } from '../database/open.ts';
import { readableContent } from '../stores/contents.ts';
import { attemptsOn, type Leaving } from '../stores/leaving.ts';
import { newestOfLists } from '../stores/lists.ts';
import type { Context } from './context.ts';
import { type ListRow, requireList } from './lists.ts';

/** What the newest message of a list says of leaving it. */
export interface WaysRead {
	listId: number;
	ways: Way[];
	/** Why it cannot be left by one request; undefined: it can. */
	noClick: string | undefined;
	/** Who sent that message. */
	sender: string;
	/** The address in this mailbox to which the list writes; empty where the message does not say. */
	writesTo: string;
}

/* Whom the message was delivered to: that is the address under which it was subscribed. */
const DELIVERED = ['delivered-to', 'x-original-to', 'to'];

/** Reads how lists can be left off their newest messages. */
export async function readWaysOf(
	context: Context,
	mailboxId: number,
	ids: readonly number[]
): Promise<Map<number, WaysRead>> {
	const { db } = context;
	const found = new Map<number, WaysRead>();
	const newest = await newestOfLists(db, mailboxId, ids);
	for (const { listId, contentId } of newest) found.set(listId, { listId, ...(await waysOfContent(db, contentId)) });
	return found;
}

async function waysOfContent(db: Db, contentId: number): Promise<Omit<WaysRead, 'listId'>> {
	const bytes = new Uint8Array((await readableContent(db, contentId)) ?? new Uint8Array());
	const root = scanStructure(bytes);
	const { text, html } = await readBody(bytes, root);
	const click = oneClick(root.header);
	const address = DELIVERED.map(
		(name) => /[^\s<>,;"]+@[^\s<>,;"]+/.exec(fieldValue(root.header, name) ?? '')?.[0]
	).find((found) => found !== undefined);
	return {
		ways: readWays(root.header, findOffer(divideText(text).own, html)),
		noClick: 'why' in click ? click.why : undefined,
		sender: readAddresses(fieldValue(root.header, 'from'))[0]?.address ?? '',
		writesTo: (address ?? '').toLowerCase()
	};
}

/** A list in full: how it can be left, what was tried, and what Kovrel advises. */
export interface ListInFull {
	list: ListRow;
	ways: Way[];
	noClick: string | undefined;
	attempts: Leaving[];
	advice: string;
}

function advise(list: ListRow, ways: readonly Way[]): string {
	if (list.verdict === 'block') return 'It is blocked: what still comes goes to junk.';
	if (list.standing === 'still-writing')
		return 'It was asked to stop and still writes. Asking again tells it only that somebody reads here: block it.';
	if (!list.known)
		return 'Nobody here has written to them. To a stranger, any click says that this address is read: mark it as junk and block it rather than leaving.';
	if (ways.length === 0) return 'It does not say how it can be left: block it where it is not wanted.';
	return 'A known sender: leaving is safe.';
}

/** One list with all that is known about leaving it. @throws Refusal */
export async function showList(context: Context, input: { mailboxId: number; listId: number }): Promise<ListInFull> {
	const list = await requireList(context, input.mailboxId, input.listId);
	const read = (await readWaysOf(context, input.mailboxId, [list.id])).get(list.id);
	return {
		list,
		ways: read?.ways ?? [],
		noClick: read?.noClick,
		attempts: await attemptsOn(context.db, input.mailboxId, list.id),
		advice: advise(list, read?.ways ?? [])
	};
}
