import { type MessageWays } from '../../../core/lists/message-ways.ts';
import { type Way } from '../../../core/lists/ways.ts';
import { readableContent, readWaysInThread } from '../mail/index.ts';
import { attemptsOn, type UnsubscribeAttempt } from './unsubscribe-store.ts';
import { newestOfLists } from './lists-store.ts';
import { type Context, defineUseCase, id } from '../context/index.ts';
import { type ListRow, requireList } from './lists.ts';
import Joi from 'joi';

/** The ways to unsubscribe in a list's newest message. */
export interface WaysRead extends MessageWays {
	listId: number;
}

/* Messages read together: few enough to hold in memory. */
const AT_ONCE = 50;

/** Reads the ways to unsubscribe from the newest messages of lists; in the parse threads, as mail is hostile. */
export async function readWaysOf(
	context: Context,
	mailboxId: number,
	ids: readonly number[]
): Promise<Map<number, WaysRead>> {
	const { db } = context;
	const found = new Map<number, WaysRead>();
	const newest = await newestOfLists(db, mailboxId, ids);
	for (let from = 0; from < newest.length; from += AT_ONCE) {
		const some = newest.slice(from, from + AT_ONCE);
		const contents: Uint8Array[] = [];
		for (const { contentId } of some)
			contents.push(new Uint8Array((await readableContent(db, contentId)) ?? new Uint8Array()));
		const read = await readWaysInThread(contents);
		for (const [at, { listId }] of some.entries()) found.set(listId, { listId, ...(read[at] as MessageWays) });
	}
	return found;
}

/** A list in detail: its ways to unsubscribe, earlier attempts, and Kovrel's advice. */
export interface ListInFull {
	list: ListRow;
	ways: Way[];
	noClick: string | undefined;
	attempts: UnsubscribeAttempt[];
	advice: string;
}

function advise(list: ListRow, ways: readonly Way[]): string {
	if (list.verdict === 'block') return 'It is blocked: what still comes goes to junk.';
	if (list.standing === 'still-writing')
		return 'It was asked to stop and still writes. Asking again tells it only that somebody reads here: block it.';
	if (!list.known)
		return 'Nobody here has written to them. To a stranger, any click says that this address is read: mark it as junk and block it rather than unsubscribing.';
	if (ways.length === 0) return 'It does not say how to unsubscribe: block it if you do not want it.';
	return 'A known sender: unsubscribing is safe.';
}

/** One list with all details about unsubscribing. @throws Refusal */
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

/** The use cases of this file. */
export const listWaysUseCases = [
	defineUseCase({
		name: 'showList',
		input: () => Joi.object({ mailboxId: id.required(), listId: id.required() }).required(),
		thread: 'heavy',
		right: 'administrator',
		run: showList
	})
] as const;
