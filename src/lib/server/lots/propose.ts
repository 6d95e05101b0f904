import { createHash } from 'node:crypto';
import { daysAfter, monthsBefore } from '../../../core/calendar.ts';
import {
	alternativeTexts,
	type Carried,
	carriesAll,
	type Carrying,
	standsIn
} from '../../../core/likeness/contains.ts';
import {
	betterPlace,
	DEAD_AFTER_DAYS,
	PROPOSAL_KINDS,
	type ProposalKind,
	UNTOUCHED_MONTHS
} from '../../../core/likeness/proposals.ts';
import { attachmentContent, attachments, type Body, readBody, textOfHtml } from '../../../core/message/body.ts';
import { quotesIn } from '../../../core/message/quoted.ts';
import { scanStructure } from '../../../core/message/structure.ts';
import { threadsOf, walkThread } from '../../../core/threads/thread.ts';
import { showCount } from '../../../core/weigh/units.ts';
import { inTransaction } from '../database/index.ts';
import { itemsOfThreads, readableContent, requireMailboxId, type ThreadItem } from '../mail/index.ts';
import {
	addPlainProposals,
	addProposals,
	type Alike,
	bodiesToCompare,
	candidatesToRead,
	clearProposals,
	plainDetectors,
	type ProposedItem,
	putBodyHashes,
	putProposalRun,
	sameBytes,
	sameContent,
	sharedMessageIds,
	threadsOfSeveral,
	type UnreadCandidate
} from './proposals-store.ts';
import { type Context, defineJob, id, nowSeconds, proposalKind, today } from '../context/index.ts';
import Joi from 'joi';

/* ---- duplicates ---- */
function duplicates(alike: readonly Alike[]): ProposedItem[] {
	const groups = new Map<number, Alike[]>();
	for (const one of alike) groups.set(one.groupKey, [...(groups.get(one.groupKey) ?? []), one]);
	return [...groups.values()].flatMap((group) => {
		const { best, why } = betterPlace(group.map((one) => ({ ...one, marked: one.marked === 1 })));
		return group
			.filter(({ itemId, kept }) => itemId !== best.itemId && kept === 0)
			.map(({ itemId, folder }) => ({
				itemId,
				betterId: best.itemId,
				reason: folder === best.folder ? `twice in ${folder}` : `also in ${best.folder}, ${why}`
			}));
	});
}

async function proposeSameBytes(context: Context, mailboxId: number): Promise<void> {
	for (let after = 0; ;) {
		const alike = await sameBytes(context.db, mailboxId, after, 1_000);
		if (alike.length === 0) return;
		await inTransaction(context.db, (db) => addProposals(db, mailboxId, 'same-bytes', duplicates(alike)));
		after = alike.at(-1)?.groupKey as number;
	}
}

const LF = 10;

/* SHA-256 of the body with LF line breaks, without those at the end. */
function hashBody(bytes: Buffer): Buffer {
	let body = bytes.subarray(scanStructure(bytes).bodyStart);
	if (body.includes('\r')) body = Buffer.from(body.toString('latin1').replace(/\r\n?/g, '\n'), 'latin1');
	let end = body.length;
	while (end > 0 && body[end - 1] === LF) end--;
	return createHash('sha256').update(body.subarray(0, end)).digest();
}

/* Only bodies of messages that share their Message-ID are hashed: most need no comparison. */
async function compareBodies(context: Context, mailboxId: number): Promise<void> {
	for (let after = ''; ;) {
		const messageIds = await sharedMessageIds(context.db, after, 500);
		if (messageIds.length === 0) return;
		for (let afterMessage = 0; ;) {
			const messages = await bodiesToCompare(context.db, mailboxId, messageIds, afterMessage, 5_000);
			if (messages.length === 0) break;
			const hashed: { id: number; hash: Buffer }[] = [];
			for (const { id, contentId } of messages) {
				const bytes = await readableContent(context.db, contentId);
				if (bytes) hashed.push({ id, hash: hashBody(bytes) });
			}
			await inTransaction(context.db, (db) => putBodyHashes(db, hashed));
			afterMessage = (messages.at(-1) as { id: number }).id;
		}
		after = messageIds.at(-1) as string;
	}
}

async function proposeSameContent(context: Context, mailboxId: number): Promise<void> {
	await compareBodies(context, mailboxId);
	const alike = await sameContent(context.db, mailboxId);
	await inTransaction(context.db, (db) => addProposals(db, mailboxId, 'same-content', duplicates(alike)));
}

/* ---- quoted in full ---- */

/* Its plain text is in `texts`; the text of its HTML is added on demand, as it rarely matters. */
interface Told extends Carried {
	isWhole: boolean;
}

/** The content of a stored message, for comparing it with another. */
async function tell(context: Context, { contentId, subject }: ThreadItem): Promise<Told | undefined> {
	const bytes = await readableContent(context.db, contentId);
	if (!bytes) return undefined;
	const root = scanStructure(bytes);
	const { text, html, isWhole } = readBody(bytes, root);
	const files = attachments(root).map(({ index }) =>
		createHash('sha256')
			.update(attachmentContent(bytes, root, index) ?? '')
			.digest('hex')
	);
	return { texts: [text], html, files, subject, isWhole };
}

/* The text of every alternative (a plain part may say only that the rest is in HTML). */
const textsOf = ({ text, html }: Pick<Body, 'text' | 'html'>) =>
	alternativeTexts(text, html === undefined ? '' : textOfHtml(html));

const IN_FULL = new WeakMap<Told, Told>();

function inFull(told: Told): Told {
	const full = IN_FULL.get(told) ?? { ...told, texts: textsOf({ text: told.texts[0] ?? '', html: told.html }) };
	IN_FULL.set(told, full);
	return full;
}

/* How a later message carries an earlier one; an incompletely read message is never carried. */
function carrying(earlier: Told, later: Told): Carrying | undefined {
	const how = earlier.isWhole ? carriesAll(earlier, later) : undefined;
	return how === undefined || earlier.html === undefined ? how : carriesAll(inFull(earlier), inFull(later));
}

const CARRIED_WORDS: Record<Carrying, string> = {
	'in-a-row': 'its whole text stands in a later message of the thread',
	'answered-between': 'its whole text stands in a later message of the thread, with answers written between its lines'
};

/* How many answers below a message are compared, the nearest first: full quotes stand close by. */
const MOST_ANSWERS = 40;
/* Characters of a thread held in memory; a larger, hostile one is read again. */
const MOST_HELD = 5_000_000;
/* A larger thread is a bulletin under one subject. */
const LARGEST_THREAD = 1_000;

/** The messages of a thread that a later one carries whole, each with the last of those. */
async function quotedIn(context: Context, items: readonly ThreadItem[]): Promise<ProposedItem[]> {
	if (items.length > LARGEST_THREAD) return [];
	const told = new Map<number, Told | undefined>();
	let held = 0;
	const tellOnce = async (item: ThreadItem) => {
		if (!told.has(item.id)) {
			const mine = await tell(context, item);
			held += (mine?.texts[0]?.length ?? 0) + (mine?.html?.length ?? 0);
			if (held > MOST_HELD) {
				told.clear();
				held = 0;
			}
			told.set(item.id, mine);
			return mine;
		}
		return told.get(item.id);
	};
	// a message's descendants follow it while the rows are deeper
	const order = threadsOf(items)
		.flatMap((root) => [...walkThread(root)])
		.map(({ message, depth }) => ({ item: message as ThreadItem, depth }));
	const byTime = [...order].map(({ item }) => item).sort((a, b) => (a.sentAt ?? 0) - (b.sentAt ?? 0) || a.id - b.id);
	/* Its answers, the nearest first; then what else came later: forwards and texts that were sent again. */
	const laterThan = (place: number): ThreadItem[] => {
		const { depth, item } = order[place] as (typeof order)[number];
		const found: ThreadItem[] = [];
		for (let at = place + 1; at < order.length && found.length < MOST_ANSWERS; at++) {
			const row = order[at] as (typeof order)[number];
			if (row.depth <= depth) break;
			found.push(row.item);
		}
		const behind = byTime.slice(byTime.indexOf(item) + 1).filter((other) => !found.includes(other));
		return [...found, ...behind.slice(0, Math.max(0, MOST_ANSWERS - found.length))];
	};
	const carriedBy = new Map<number, { later: number; how: Carrying }>();
	for (const [place, { item }] of order.entries()) {
		if (item.state !== 'live') continue;
		for (const later of laterThan(place)) {
			const [mine, theirs] = [await tellOnce(item), await tellOnce(later)];
			const how = mine && theirs && carrying(mine, theirs);
			if (!how) continue;
			carriedBy.set(item.id, { later: later.id, how });
			break;
		}
	}
	const last = (id: number): number => {
		const next = carriedBy.get(id)?.later;
		return next === undefined ? id : last(next);
	};
	return [...carriedBy].map(([itemId, { how }]) => ({ itemId, betterId: last(itemId), reason: CARRIED_WORDS[how] }));
}

async function proposeQuoted(context: Context, mailboxId: number): Promise<void> {
	let looked = 0;
	for (let after = 0; !context.signal.aborted;) {
		const ids = await threadsOfSeveral(context.db, mailboxId, after, 200);
		if (ids.length === 0) return;
		const threads = new Map<number, ThreadItem[]>();
		for (const item of await itemsOfThreads(context.db, ids))
			threads.set(item.threadId, [...(threads.get(item.threadId) ?? []), item]);
		const found: ProposedItem[] = [];
		for (const items of threads.values()) {
			found.push(...(await quotedIn(context, items)));
			looked += items.length;
		}
		await inTransaction(context.db, (db) => addProposals(db, mailboxId, 'quoted-in-full', found));
		context.report({ done: looked, total: undefined, note: `${showCount(looked)} messages in threads compared` });
		after = ids.at(-1) as number;
	}
}

/* ---- candidates that have to be read ---- */

/* Another message of the thread with all the quotes; undefined: none. */
async function whereQuotesStand(
	context: Context,
	threadId: number,
	messageId: number,
	quotes: readonly string[]
): Promise<number | undefined> {
	const others = (await itemsOfThreads(context.db, [threadId])).filter((other) => other.id !== messageId);
	if (others.length > LARGEST_THREAD) return undefined;
	for (const other of others.slice(-MOST_ANSWERS).reverse()) {
		const bytes = await readableContent(context.db, other.contentId);
		if (!bytes) continue;
		const texts = textsOf(readBody(bytes, scanStructure(bytes)));
		if (quotes.every((quote) => standsIn(quote, texts))) return other.id;
	}
	return undefined;
}

/*
 * A line of thanks is redundant if what it quotes stands in another message: people mark their own words with `>`
 * too.
 */
async function thanksOf(context: Context, { id, threadId, contentId }: UnreadCandidate): Promise<ProposedItem[]> {
	const bytes = await readableContent(context.db, contentId);
	if (!bytes) return [];
	const quotes = textsOf(readBody(bytes, scanStructure(bytes))).flatMap(quotesIn);
	if (quotes.length === 0) return [{ itemId: id, betterId: undefined, reason: 'one line of thanks' }];
	const betterId = threadId === null ? undefined : await whereQuotesStand(context, threadId, id, quotes);
	return betterId === undefined
		? []
		: [{ itemId: id, betterId, reason: 'one line of thanks, above a quote that stands in another message' }];
}

/* A message without text is empty only if its HTML shows nothing and has no links. */
async function emptyOf(context: Context, { id, contentId }: UnreadCandidate): Promise<ProposedItem[]> {
	const bytes = await readableContent(context.db, contentId);
	const body = bytes && readBody(bytes, scanStructure(bytes));
	return !body || /\b(?:src|href|background)\s*=/i.test(body.html ?? '')
		? []
		: [{ itemId: id, betterId: undefined, reason: 'nothing in it' }];
}

async function proposeRead(
	context: Context,
	mailboxId: number,
	kind: 'thanks' | 'leftover',
	read: (context: Context, candidate: UnreadCandidate) => Promise<ProposedItem[]>
): Promise<void> {
	for (let after = 0; !context.signal.aborted;) {
		const candidates = await candidatesToRead(context.db, mailboxId, kind, after, 200);
		if (candidates.length === 0) return;
		const found: ProposedItem[] = [];
		for (const candidate of candidates) found.push(...(await read(context, candidate)));
		await inTransaction(context.db, (db) => addProposals(db, mailboxId, kind, found));
		after = (candidates.at(-1) as UnreadCandidate).id;
	}
}

/* ---- the use cases ---- */

/** Computes the proposals of a mailbox; decides nothing. */
export async function findProposals(
	context: Context,
	input: { mailboxId: number; kinds?: ProposalKind[] | undefined }
): Promise<{ finished: boolean }> {
	const mailbox = await requireMailboxId(context, input.mailboxId);
	const kinds = input.kinds ?? PROPOSAL_KINDS;
	const day = {
		mailboxId: mailbox.id,
		now: nowSeconds(context),
		today: today(context),
		deadBefore: daysAfter(today(context), -DEAD_AFTER_DAYS),
		untouchedBefore: monthsBefore(today(context), UNTOUCHED_MONTHS)
	};
	await inTransaction(context.db, async (db) => {
		for (const kind of kinds) await clearProposals(db, mailbox.id, kind);
		for (const detector of plainDetectors(day))
			if (kinds.includes(detector.kind)) await addPlainProposals(db, mailbox.id, detector);
	});
	if (kinds.includes('same-bytes')) await proposeSameBytes(context, mailbox.id);
	if (kinds.includes('same-content')) await proposeSameContent(context, mailbox.id);
	if (kinds.includes('quoted-in-full')) await proposeQuoted(context, mailbox.id);
	if (kinds.includes('thanks')) await proposeRead(context, mailbox.id, 'thanks', thanksOf);
	if (kinds.includes('leftover')) await proposeRead(context, mailbox.id, 'leftover', emptyOf);
	// a mailbox that was looked through in part is not said to be looked through
	const finished = !context.signal.aborted;
	if (finished) await inTransaction(context.db, (db) => putProposalRun(db, mailbox.id, context.now().toISOString()));
	return { finished };
}

/** The use cases of this file. */
export const proposeUseCases = [
	defineJob(
		{
			name: 'findProposals',
			input: () =>
				Joi.object({
					mailboxId: id.required(),
					kinds: Joi.array().items(proposalKind)
				}).required(),
			thread: 'checker',
			right: 'administrator',
			run: findProposals
		},
		{ lane: 'look', about: (_context, { mailboxId }) => ({ kind: 'proposals', mailboxId }) }
	)
] as const;
