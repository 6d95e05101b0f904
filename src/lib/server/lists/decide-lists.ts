import type { DecisionOptions } from '../../../core/docket/decision.ts';
import type { Decision, ListDecision } from '../../../core/docket/decisions.ts';
import { showCount } from '../../../core/weigh/units.ts';
import { inTransaction } from '../database/index.ts';
import { Refusal } from '../refusal.ts';
import { removeDigestLists } from './digests-store.ts';
import { findRole, type Mailbox, requireMailboxId } from '../mail/index.ts';
import { appendLedger } from '../ledger/index.ts';
import { listsById } from './lists-store.ts';
import {
	decide,
	type Decided,
	type DocketView,
	itemsByMailbox,
	type LotsScope,
	prepareDocket
} from '../docket/index.ts';
import { type Context, defineUseCase, id, today } from '../context/index.ts';
import { type ListRow, requireLists } from './lists.ts';
import { selectWays, type SelectedWay, isOpen } from './select-ways.ts';
import Joi from 'joi';

/** The decision on existing mail of lists. */
export type BackIssues = 'leave' | 'archive' | 'delete' | 'keep-newest' | 'junk';

/** A decision on lists. */
export interface ListsDecision {
	mailboxId: number;
	ids: number[];
	decision: ListDecision;
	backIssues: BackIssues;
	/** How many of the newest messages of each list stay; the rest is deleted. */
	keepNewest?: number | undefined;
}

/** The keywords of junk and fraud (IANA's IMAP keywords). */
const JUNK = '$Junk';
const PHISHING = '$Phishing';

/* The ways to unsubscribe are read for each list. */
const MOST_LISTS = 1_000;
const NAMED = 3;

function called(lists: readonly ListRow[]): string {
	const some = lists.slice(0, NAMED).map(({ name }) => name);
	const more = lists.length - some.length;
	return more > 0 ? `${some.join(', ')} and ${showCount(more)} more` : some.join(', ');
}

/* The live mail of lists. */
function mailOf(context: Context, ids: readonly number[], label: string): LotsScope {
	return {
		kind: 'lots',
		by: 'list',
		keys: ids.map(String),
		withoutKeys: [],
		without: [],
		query: '',
		folderIds: undefined,
		on: today(context),
		label
	};
}

/** The lines that move mail into junk, and mark it so. */
export async function junkLines(
	{ db }: Pick<Context, 'db'>,
	mailbox: Mailbox,
	scope: Decided['scope'],
	keyword = JUNK
): Promise<Decided[]> {
	const folder = (await findRole(db, mailbox.id, 'junk'))?.path ?? 'Junk';
	return [
		{ decision: 'move', options: { folder }, scope },
		{ decision: 'tag', options: { tag: keyword }, scope }
	];
}

/** The marks for mail. */
export const JUNK_MARKS = ['junk', 'fraud', 'not-junk'] as const;
export type JunkMark = (typeof JUNK_MARKS)[number];

/** Whether a word is one of them. */
export function isJunkMark(word: string): word is JunkMark {
	return (JUNK_MARKS as readonly string[]).includes(word);
}

/** The lines that mark mail as junk or fraud, or remove that mark. */
export async function markLines(
	context: Pick<Context, 'db'>,
	mailbox: Mailbox,
	scope: Decided['scope'],
	as: JunkMark
): Promise<Decided[]> {
	if (as !== 'not-junk') return junkLines(context, mailbox, scope, as === 'junk' ? JUNK : PHISHING);
	const inbox = (await findRole(context.db, mailbox.id, 'inbox'))?.path ?? 'Inbox';
	return [
		{ decision: 'untag', options: { tag: JUNK }, scope },
		{ decision: 'untag', options: { tag: PHISHING }, scope },
		{ decision: 'move', options: { folder: inbox }, scope }
	];
}

/**
 * Puts marking messages as junk or fraud, or removing the mark, on the dockets of their mailboxes. @throws Refusal
 */
async function markMessages(context: Context, input: { ids: number[]; as: JunkMark }): Promise<DocketView[]> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const { mailboxes } = await itemsByMailbox(within, input.ids);
		const dockets: DocketView[] = [];
		for (const [mailboxId, ids] of mailboxes) {
			const mailbox = await requireMailboxId(within, mailboxId);
			let docket: DocketView | undefined;
			for (const line of await markLines(within, mailbox, { kind: 'items', ids }, input.as))
				docket = await decide(within, { mailboxId, line });
			if (docket) dockets.push(docket);
		}
		if (dockets.length === 0) throw new Refusal('not-found', 'There are no such messages. Nothing was done.');
		return dockets;
	});
}

async function backIssueLines(
	context: Context,
	mailbox: Mailbox,
	wish: ListsDecision,
	lists: readonly ListRow[]
): Promise<Decided[]> {
	const scope = mailOf(
		context,
		wish.ids,
		`of ${lists.length === 1 ? 'the list' : `${showCount(lists.length)} lists:`} ${called(lists)}`
	);
	const one = (decision: Decision, options: DecisionOptions = {}): Decided[] => [{ decision, options, scope }];
	switch (wish.backIssues) {
		case 'leave':
			return [];
		case 'archive':
			return one('archive');
		case 'delete':
			return one('delete');
		case 'keep-newest':
			return one('delete', { keepNewest: wish.keepNewest ?? 1 });
		case 'junk':
			return junkLines(context, mailbox, scope);
	}
}

/** A decision on lists as lines of a docket. @throws Refusal */
export async function listsLines(context: Context, input: ListsDecision): Promise<Decided[]> {
	const refuse = (message: string) => new Refusal('bad-input', `${message} Nothing was done.`);
	const mailbox = await requireMailboxId(context, input.mailboxId);
	if (input.ids.length === 0) throw refuse('Select lists first.');
	if (input.ids.length > MOST_LISTS) throw refuse(`At most ${showCount(MOST_LISTS)} lists are decided on in one go.`);
	const lists = await requireLists(context, mailbox.id, input.ids);
	const open = input.decision === 'unsubscribe' ? lists.filter(isOpen) : lists;
	const back = await backIssueLines(context, mailbox, input, lists);
	if (open.length === 0) {
		if (back.length === 0)
			throw new Refusal(
				'not-possible',
				'These lists were asked to stop already; that is not done twice. Nothing was done.'
			);
		return back;
	}
	const ways =
		input.decision === 'unsubscribe'
			? await selectWays(
					context,
					mailbox,
					open.map(({ id }) => id)
				)
			: new Map<number, SelectedWay>();
	const byHand = [...ways.values()].filter((selected) => selected.byHand).length;
	const asks = [...ways.values()].flatMap(({ ask }) => ask ?? []);
	return [
		{
			decision: input.decision,
			options: input.decision === 'unsubscribe' ? { byHand, asks } : {},
			scope: { kind: 'lists', ids: open.map(({ id }) => id), label: called(open) }
		},
		...back
	];
}

/** A decision on lists, with lists of strangers that are blocked instead, their mail moved into junk. */
export interface ListsWish extends ListsDecision {
	blocked?: number[] | undefined;
}

/** All lines of a decision on lists; writes nothing. @throws Refusal */
export async function wishLines(context: Context, { blocked = [], ...wish }: ListsWish): Promise<Decided[]> {
	const { mailboxId, ids } = wish;
	return [
		...(ids.length > 0 || blocked.length === 0 ? await listsLines(context, wish) : []),
		...(blocked.length > 0
			? await listsLines(context, { mailboxId, ids: blocked, decision: 'block', backIssues: 'junk' })
			: [])
	];
}

/** Puts lines on the docket of a mailbox, one after the other. Needs a transaction. @throws Refusal */
export async function putLines(context: Context, mailboxId: number, lines: readonly Decided[]): Promise<DocketView> {
	let docket: DocketView | undefined;
	for (const line of lines) docket = await decide(context, { mailboxId, line });
	return docket as DocketView;
}

/**
 * Puts a decision on lists on the docket of a mailbox. Nothing is carried out yet.
 *
 * @throws Refusal, and then nothing is drafted
 */
export async function decideLists(context: Context, input: ListsWish): Promise<DocketView> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		return putLines(within, input.mailboxId, await wishLines(within, input));
	});
}

/** Drafts a separate docket for a decision on lists: the person's other drafts are not touched. @throws Refusal */
export async function prepareLists(context: Context, input: ListsDecision): Promise<DocketView> {
	return prepareDocket(context, { mailboxId: input.mailboxId, lines: await listsLines(context, input) });
}

/** Removes lists from the digest of a mailbox. @throws Refusal */
export async function removeFromDigest(context: Context, input: { mailboxId: number; ids: number[] }): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const mailbox = await requireMailboxId({ ...context, db }, input.mailboxId);
		const removed = await removeDigestLists(db, mailbox.id, input.ids);
		if (removed === 0) throw new Refusal('not-found', 'None of these lists is in the digest. Nothing was changed.');
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'digest-set',
			details: {
				mailbox: mailbox.name,
				takenOut: (await listsById(db, input.ids)).map(({ identifier }) => identifier)
			}
		});
	});
}

/** The fields of a decision on lists, beside its mailboxes. */
export const listsDecisionFields = {
	ids: Joi.array().items(id).required(),
	blocked: Joi.array().items(id),
	decision: Joi.valid('unsubscribe', 'block', 'digest').required(),
	backIssues: Joi.valid('archive', 'delete', 'junk', 'leave', 'keep-newest').required(),
	keepNewest: Joi.number()
};

/** The use cases of this file. */
export const decideListsUseCases = [
	defineUseCase({
		name: 'decideLists',
		input: () => Joi.object({ mailboxId: id.required(), ...listsDecisionFields }).required(),
		thread: 'writer',
		right: 'administrator',
		run: decideLists
	}),
	defineUseCase({
		name: 'markMessages',
		input: () =>
			Joi.object({
				ids: Joi.array().items(id).required(),
				as: Joi.valid('junk', 'fraud', 'not-junk').required()
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: markMessages
	}),
	defineUseCase({
		name: 'removeFromDigest',
		input: () => Joi.object({ mailboxId: id.required(), ids: Joi.array().items(id).required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: removeFromDigest
	})
] as const;
