import type { Layout } from '../../../core/archive/layout.ts';
import { type CalendarDate, readDate } from '../../../core/calendar.ts';
import { type DecisionOptions, isForGood, isOnLists } from '../../../core/docket/decisions.ts';
import { isBarredByHold } from '../../../core/docket/effects.ts';
import { conflictSentence, consequence, lineSentence } from '../../../core/docket/sentences.ts';
import { inSnapshot, inTransaction } from '../database/open.ts';
import {
	claimedByFolder,
	claimedSums,
	claimItems,
	type ClaimTable,
	frozenByFolder,
	settleClaims
} from '../stores/carrying-out.ts';
import {
	addDocket,
	addDocketLine,
	type Docket,
	type DocketLine,
	dropDocketLine,
	getDocket,
	listDockets,
	putDocketLayout,
	putDocketName,
	putDocketState,
	putDocketSums,
	putLineSums
} from '../stores/dockets.ts';
import { findFolder, folderWithBelow } from '../stores/folders.ts';
import { type ItemRow, itemsById, itemsWhere } from '../stores/items.ts';
import { listsById } from '../stores/lists.ts';
import type { Mailbox } from '../stores/mailboxes.ts';
import { holdsOfMailbox, refreshHolds } from '../stores/holds.ts';
import { type Paused, pausedOn } from '../stores/pauses.ts';
import { findSeries } from '../stores/series.ts';
import {
	countByFolder,
	countSelection,
	type Decided,
	type FolderSums,
	type LineSums,
	type Scope,
	selection
} from '../stores/scopes.ts';
import { type Context, today } from './context.ts';
import { checkedQuery } from './find.ts';
import { Refusal } from '../refusal.ts';
import { requireApplied } from './apply-retention.ts';
import { requireMailbox, requireMailboxId } from './mailboxes.ts';
import { requireAllowed } from './policy-bounds.ts';

export type { Decided, ItemRow, Scope };

/** A line as it is shown. */
export interface LineView extends DocketLine {
	/** What it does, in words. */
	sentence: string;
	/** What follows from it that does not go without saying; empty where nothing does. */
	consequence: string;
	/** What it and other lines both claim, in words; said of the line that loses. */
	conflictSentences: string[];
	/** Bytes that no longer count against the quota once it is carried out, and once the bin is emptied (invariant 2). */
	freedAtOnce: number;
	freedLater: number;
}

/** A docket as it is shown. */
export interface DocketView extends Omit<Docket, 'lines'> {
	mailbox: string;
	lines: LineView[];
	/** Each line in words. */
	sentences: string[];
	/** Bytes that no longer count against the quota once it is carried out, and once the bin is emptied (invariant 2). */
	freedAtOnce: number;
	freedLater: number;
	/** How many lists it decides on. */
	onLists: number;
	/** Whether it destroys something: it cannot be taken back then. */
	destroys: boolean;
}

/** A docket with what it does folder by folder. */
export interface DocketInFull extends DocketView {
	folders: FolderSums[];
	/** Of each line that decides on lists, which ones. */
	lists: { lineId: number; names: string[] }[];
}

/* What is archived does not count against the quota, so destroying it frees nothing there (invariant 2). */
const freesAtOnce = ({ decision, scope }: Decided) =>
	decision === 'archive' || (isForGood(decision) && !(scope.kind === 'due' && scope.state === 'archived'));

/** The docket in words. */
export function viewDocket(docket: Docket, mailbox: Mailbox): DocketView {
	const drafted = docket.state === 'drafted';
	const lines = docket.lines.map((line): LineView => {
		const { decision, options, scope, folders, elsewhere } = line;
		const messages = drafted ? line.messages : line.doneMessages;
		const bytes = drafted ? line.bytes : line.doneBytes;
		return {
			...line,
			freedAtOnce: freesAtOnce(line) ? bytes : 0,
			freedLater: decision === 'delete' ? bytes : 0,
			sentence: lineSentence({
				decision,
				options,
				messages,
				bytes,
				folders,
				cutoff: scope.kind === 'before' ? scope.before : undefined,
				label: 'label' in scope ? scope.label : undefined,
				folderPath: scope.kind === 'before' ? scope.folderPath : undefined,
				layout: docket.layout,
				lists: scope.kind === 'lists' ? scope.ids.length : undefined
			}),
			consequence:
				messages > 0 || isOnLists(decision) ? consequence(decision, { elsewhere, binDays: mailbox.binDays }) : '',
			conflictSentences: line.conflicts
				.filter(({ loses }) => loses === line.position)
				.map((conflict) => {
					const of = (position: number) =>
						docket.lines.find((other) => other.position === position)?.decision ?? decision;
					return conflictSentence(conflict, { wins: of(conflict.wins), loses: of(conflict.loses) });
				})
		};
	});
	const freed = (when: 'freedAtOnce' | 'freedLater') => lines.reduce((sum, line) => sum + line[when], 0);
	return {
		...docket,
		mailbox: mailbox.name,
		lines,
		sentences: lines.map(({ sentence }) => sentence),
		freedAtOnce: freed('freedAtOnce'),
		freedLater: freed('freedLater'),
		onLists: lines.reduce((sum, { scope }) => sum + (scope.kind === 'lists' ? scope.ids.length : 0), 0),
		destroys: lines.some(({ decision }) => isForGood(decision))
	};
}

/** The docket with that number. @throws Refusal */
export async function requireDocket({ db }: Pick<Context, 'db'>, id: number): Promise<Docket> {
	const docket = await getDocket(db, id);
	if (!docket) throw new Refusal('not-found', `There is no docket ${id}. Nothing was done.`);
	return docket;
}

/* A draft that this person may still change. */
async function requireDraft(context: Context, id: number): Promise<Docket> {
	const docket = await requireDocket(context, id);
	if (docket.state !== 'drafted')
		throw new Refusal('not-possible', `Docket ${docket.id} is no draft any more. Nothing was done.`);
	return docket;
}

async function foldersOfDraft(context: Context, docket: Docket): Promise<FolderSums[]> {
	const paused = await pausedOn(context.db, docket.mailboxId, today(context));
	if (docket.lines.length > 1) {
		// what several lines claim counts once; the table of claims is this connection's own, in memory
		return inSnapshot(context.db, async (db) => {
			await claimItems(db, docket, paused);
			await settleClaims(db, 'temp.claim', docket);
			return claimedByFolder(db);
		});
	}
	const [line] = docket.lines;
	return line ? countByFolder(context.db, docket.mailboxId, line, paused) : [];
}

/** A docket in full: its lines, and its counts folder by folder. */
export async function showDocket(context: Context, input: { id: number }): Promise<DocketInFull> {
	const docket = await requireDocket(context, input.id);
	const mailbox = await requireMailboxId(context, docket.mailboxId);
	const folders =
		docket.state === 'drafted' ? await foldersOfDraft(context, docket) : await frozenByFolder(context.db, docket.id);
	const lists: DocketInFull['lists'] = [];
	for (const { id, scope } of docket.lines)
		if (scope.kind === 'lists')
			lists.push({
				lineId: id,
				names: (await listsById(context.db, scope.ids)).map(({ name, identifier }) => name || identifier)
			});
	return { ...viewDocket(docket, mailbox), folders, lists };
}

/** The messages of one line of a docket: those it would change, or has changed. @throws Refusal */
export async function docketItems(
	context: Context,
	input: { id: number; lineId: number; limit: number; offset: number }
): Promise<{ items: ItemRow[]; total: number }> {
	const { db } = context;
	const docket = await requireDocket(context, input.id);
	const line = docket.lines.find(({ id }) => id === input.lineId);
	if (!line) throw new Refusal('not-found', `Docket ${docket.id} has no such line.`);
	const itemsOf = (table: ClaimTable, from: typeof db) => {
		const where = { sql: `item.id IN (SELECT item_id FROM ${table} WHERE line_id = ?)`, bindings: [line.id] };
		return itemsWhere(from, where, input.limit, input.offset);
	};
	if (docket.state !== 'drafted') return itemsOf('docket_item', db);
	const paused = await pausedOn(db, docket.mailboxId, today(context));
	return inSnapshot(db, async (trx) => {
		await claimItems(trx, docket, paused);
		await settleClaims(trx, 'temp.claim', docket);
		return itemsOf('temp.claim', trx);
	});
}

/** The docket that this person is working on in a mailbox: the open one, else the last that was carried out. */
export async function currentDocket(context: Context, input: { mailboxId: number }): Promise<DocketView | undefined> {
	const mailbox = await requireMailboxId(context, input.mailboxId);
	const of = (states: Parameters<typeof listDockets>[1]['states'], who?: string) =>
		listDockets(context.db, { mailboxId: mailbox.id, states, limit: 1, ...(who === undefined ? {} : { who }) });
	const [docket] = [
		...(await of(['drafted', 'carrying-out', 'taking-back'], context.who)),
		...(await of(['carrying-out', 'taking-back'])),
		...(await of(['carried-out', 'taken-back'], context.who)),
		...(await of(['carried-out', 'taken-back']))
	];
	return docket && viewDocket(docket, mailbox);
}

/** Dockets of a mailbox, or of all; the newest first. Drafts that were dropped are not among them. */
export async function listedDockets(
	context: Context,
	input: { mailboxId?: number | undefined; limit: number; drafts?: boolean }
): Promise<DocketView[]> {
	const states = ['carrying-out', 'carried-out', 'taking-back', 'taken-back'] as const;
	const dockets = await listDockets(context.db, {
		...(input.mailboxId === undefined ? {} : { mailboxId: input.mailboxId }),
		states: input.drafts ? ['drafted', ...states] : states,
		limit: input.limit
	});
	const views: DocketView[] = [];
	for (const docket of dockets) views.push(viewDocket(docket, await requireMailboxId(context, docket.mailboxId)));
	return views;
}

/** The drafts of a mailbox, whoever drafted them. */
export async function openDrafts(
	context: Context,
	input: { mailboxId: number; limit: number }
): Promise<Pick<Docket, 'id' | 'name' | 'messages'>[]> {
	return listDockets(context.db, { ...input, states: ['drafted'] });
}

/* ---- drafting ------------------------------------------------------------------------------------------------------ */

/** Puts under the holds that stand what a docket is about to take away: it may have been moved or tagged into them. */
export async function holdWhatIsCovered({ db }: Context, docket: Docket, paused: Paused): Promise<void> {
	for (const line of docket.lines)
		if (isBarredByHold(line.decision)) await refreshHolds(db, selection(docket.mailboxId, line, paused).within);
}

/** Has what a docket goes by be what is set: classes, and what is due. @throws Refusal where it is not yet */
export async function requireSettled(context: Context, { mailboxId, lines }: Docket): Promise<void> {
	if (lines.some(({ decision, scope }) => scope.kind === 'due' || isBarredByHold(decision)))
		await requireApplied(context, mailboxId);
}

/** Counts a draft again: what each line means by now, and what lines both claim. Belongs into a transaction. */
export async function recount(context: Context, docket: Docket): Promise<{ messages: number; bytes: number }> {
	const { db } = context;
	const paused = await pausedOn(db, docket.mailboxId, today(context));
	await holdWhatIsCovered(context, docket, paused);
	const holds = await holdsOfMailbox(db, docket.mailboxId);
	const several = docket.lines.length > 1;
	if (several) await claimItems(db, docket, paused);
	const { conflicts, needed } = several
		? await settleClaims(db, 'temp.claim', docket)
		: { conflicts: [], needed: new Map<number, number>() };
	for (const line of docket.lines) {
		const counted = await countSelection(db, docket.mailboxId, line, paused);
		const outranked = conflicts.filter(({ loses }) => loses === line.position);
		const settled: LineSums = several ? { ...counted, ...(await claimedSums(db, 'temp.claim', line)) } : counted;
		const lost = outranked.reduce((sum, { messages }) => sum + messages, 0);
		await putLineSums(
			db,
			line.id,
			{
				...settled,
				left: [
					...counted.left.map((left) => (left.reason === 'held' ? { ...left, holds } : left)),
					...(lost > 0 ? [{ reason: 'outranked' as const, messages: lost }] : []),
					...(needed.has(line.id) ? [{ reason: 'needed' as const, messages: needed.get(line.id) as number }] : [])
				]
			},
			conflicts.filter(({ wins, loses }) => wins === line.position || loses === line.position)
		);
	}
	return putDocketSums(db, docket.id);
}

async function checkRetaining(context: Context, { decision, options, scope }: Decided): Promise<void> {
	const refuse = (message: string) => new Refusal('bad-input', `${message} Nothing was done.`);
	if (decision === 'classify' && !options.because?.trim()) throw refuse('Classing mail otherwise needs a reason.');
	if (decision === 'retain' && options.series !== undefined) {
		const series = await findSeries(context.db, options.series);
		if (!series || series.removedAt !== null) throw refuse(`There is no series ${options.series}.`);
	}
	if (decision === 'retain' && options.terms !== undefined) await requireAllowed(context, options.terms);
	if (decision === 'dispose' && scope.kind !== 'again' && (scope.kind !== 'due' || scope.by > today(context)))
		throw refuse('Only what has reached the end of its period can be destroyed without going through the bin.');
}

/* What a decision cannot do without, and what it cannot be on. */
async function checkDecided(context: Context, mailbox: Mailbox, { decision, options, scope }: Decided): Promise<void> {
	const refuse = (message: string) => new Refusal('bad-input', `${message} Nothing was done.`);
	if (decision === 'archive' && !mailbox.archives)
		throw new Refusal('not-possible', `${mailbox.name} is set to archive nothing. Nothing was done.`);
	if (decision === 'move' && !options.folder?.trim()) throw refuse('Name the folder to move to.');
	if ((decision === 'tag' || decision === 'untag') && !options.tag?.trim()) throw refuse('Name the tag.');
	if (decision === 'pause') {
		if (readDate(options.until ?? '') === undefined || (options.until as string) <= today(context))
			throw refuse('A pause ends on a day that is still to come.');
		if (!options.because?.trim()) throw refuse('A pause needs a reason.');
	}
	if (options.keepNewest !== undefined) {
		if (!Number.isInteger(options.keepNewest) || options.keepNewest < 1)
			throw refuse('The newest that stay are a whole number from 1 on.');
		if (scope.kind !== 'lots' || scope.by === 'attachment' || scope.by === 'tag')
			throw refuse('The newest of each can be kept only where each message lies in one lot.');
	}
	if (scope.kind === 'query' || scope.kind === 'lots') checkedQuery(scope.query);
	await checkRetaining(context, { decision, options, scope });
}

async function draftOf(
	context: Context,
	mailbox: Mailbox,
	{ lines, layout, name }: { lines: readonly Decided[]; layout?: Layout | undefined; name?: string }
): Promise<DocketView> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		for (const line of lines) await checkDecided(within, mailbox, line);
		const id = await addDocket(db, {
			mailboxId: mailbox.id,
			at: context.now(),
			who: context.who,
			layout: layout ?? mailbox.layout,
			...(name === undefined ? {} : { name })
		});
		for (const line of lines) await addDocketLine(db, id, line);
		await recount(within, await requireDocket(within, id));
		return viewDocket(await requireDocket(within, id), mailbox);
	});
}

/* A new decision on the same part of a mailbox takes the place of the one before: the date was changed. */
function replaces(line: Decided, former: Decided): boolean {
	const [a, b] = [line.scope, former.scope];
	if (line.decision !== former.decision) return false;
	if (a.kind === 'before' && b.kind === 'before') return a.folderPath === b.folderPath;
	return (
		JSON.stringify([a, line.options]) === JSON.stringify([b, former.options]) ||
		(a.kind === 'archived' && b.kind === 'archived')
	);
}

/**
 * Puts a decision on the docket that this person has open in a mailbox, opening one where there is none. Nothing happens yet.
 *
 * @throws Refusal
 */
export async function decide(
	context: Context,
	input: { mailboxId: number; line: Decided; layout?: Layout | undefined }
): Promise<DocketView> {
	const mailbox = await requireMailboxId(context, input.mailboxId);
	const { line, layout } = input;
	const drafts = await listDockets(context.db, {
		mailboxId: mailbox.id,
		states: ['drafted'],
		who: context.who,
		limit: 20
	});
	// what destroys is a docket of its own
	const open = drafts.find(({ lines }) => lines.every(({ decision }) => !isForGood(decision)));
	if (!open) return draftOf(context, mailbox, { lines: [line], layout });
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		await requireDraft(within, open.id);
		await checkDecided(within, mailbox, line);
		for (const former of open.lines) if (replaces(line, former)) await dropDocketLine(db, open.id, former.id);
		await addDocketLine(db, open.id, line);
		if (layout) await putDocketLayout(db, open.id, layout);
		await recount(within, await requireDocket(within, open.id));
		return viewDocket(await requireDocket(within, open.id), mailbox);
	});
}

/** Puts a decision on a draft that is named, whoever drafted it. @throws Refusal */
export async function decideOn(context: Context, input: { id: number; line: Decided }): Promise<DocketView> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const docket = await requireDraft(within, input.id);
		const mailbox = await requireMailboxId(within, docket.mailboxId);
		await checkDecided(within, mailbox, input.line);
		await addDocketLine(db, docket.id, input.line);
		await recount(within, await requireDocket(within, docket.id));
		return viewDocket(await requireDocket(within, docket.id), mailbox);
	});
}

/** Takes a line off a draft; a draft without lines is dropped. @throws Refusal */
export async function dropLine(context: Context, input: { id: number; lineId: number }): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const docket = await requireDraft(within, input.id);
		if (!(await dropDocketLine(db, docket.id, input.lineId)))
			throw new Refusal('not-found', `Docket ${docket.id} has no such line any more. Nothing was done.`);
		if (docket.lines.length === 1) await putDocketState(db, docket.id, 'dropped');
		else await recount(within, await requireDocket(within, docket.id));
	});
}

/**
 * Includes what is protected and was left by a line, by a decision of its own that names the protection.
 *
 * @throws Refusal
 */
export async function includeProtected(
	context: Context,
	input: { id: number; lineId: number; only: NonNullable<DecisionOptions['only']> }
): Promise<DocketView> {
	const docket = await requireDraft(context, input.id);
	const line = docket.lines.find(({ id }) => id === input.lineId);
	if (!line) throw new Refusal('not-found', `Docket ${docket.id} has no such line any more. Nothing was done.`);
	const { decision, options, scope } = line;
	return decideOn(context, { id: docket.id, line: { decision, scope, options: { ...options, only: input.only } } });
}

/** Gives a docket a name. @throws Refusal */
export async function nameDocket(context: Context, input: { id: number; name: string }): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const docket = await requireDocket({ db }, input.id);
		await putDocketName(db, docket.id, input.name.trim().slice(0, 200));
	});
}

/** Counts a draft again and returns it. @throws Refusal */
export async function recountDocket(context: Context, input: { id: number }): Promise<DocketView> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		await recount(within, await requireDraft(within, input.id));
		const docket = await requireDocket(within, input.id);
		return viewDocket(docket, await requireMailboxId(within, docket.mailboxId));
	});
}

/* ---- archiving ------------------------------------------------------------------------------------------------------ */

/** What is to be archived. */
export interface ArchivingInput {
	mailbox: string;
	/** Cutoff date: what was received before it. */
	before?: CalendarDate | undefined;
	/** Path of a folder: it and its subfolders; without it, the whole mailbox. */
	folder?: string | undefined;
	/** Instead of a cutoff date and a folder: what this search finds. */
	query?: string | undefined;
	/** What it finds, in words. */
	label?: string | undefined;
	/** Where it goes; without it, as the mailbox is set. */
	layout?: Layout | undefined;
}

async function archivingLine(context: Context, mailbox: Mailbox, input: ArchivingInput): Promise<Decided> {
	const line = (scope: Scope): Decided => ({ decision: 'archive', options: {}, scope });
	if (input.query !== undefined) {
		checkedQuery(input.query);
		return line({ kind: 'query', query: input.query, label: input.label ?? `found by ${input.query}` });
	}
	const before = readDate(input.before ?? '');
	if (!before)
		throw new Refusal('bad-input', `"${input.before ?? ''}" is no date; write it as 2024-03-01. Nothing was done.`);
	if (!input.folder) return line({ kind: 'before', before, folderIds: undefined, folderPath: undefined });
	const { path, ids } = await requireFolder(context, mailbox, input.folder);
	return line({ kind: 'before', before, folderIds: ids, folderPath: path });
}

/** A folder of a mailbox, with those below it. @throws Refusal */
export async function requireFolder(
	{ db }: Context,
	mailbox: Mailbox,
	path: string
): Promise<{ id: number; path: string; ids: number[] }> {
	const folder = await findFolder(db, mailbox.id, 'mailbox', path);
	if (!folder) throw new Refusal('not-found', `${mailbox.name} has no folder "${path}". Nothing was done.`);
	return { id: folder.id, path: folder.path, ids: await folderWithBelow(db, folder.id) };
}

/** Drafts a docket of its own that archives. @throws Refusal */
export async function prepareArchiving(context: Context, input: ArchivingInput): Promise<DocketView> {
	const mailbox = await requireMailbox(context, input.mailbox);
	return draftOf(context, mailbox, { lines: [await archivingLine(context, mailbox, input)], layout: input.layout });
}

/** Puts archiving on the docket that this person has open. @throws Refusal */
export async function decideArchiving(context: Context, input: ArchivingInput): Promise<DocketView> {
	const mailbox = await requireMailbox(context, input.mailbox);
	const line = await archivingLine(context, mailbox, input);
	return decide(context, { mailboxId: mailbox.id, line, layout: input.layout });
}

/** Puts on the docket that all that is archived is filed anew, in another layout. @throws Refusal */
export async function prepareArranging(
	context: Context,
	input: { mailbox: string; layout?: Layout | undefined }
): Promise<DocketView> {
	const mailbox = await requireMailbox(context, input.mailbox);
	return draftOf(context, mailbox, {
		lines: [{ decision: 'arrange', options: {}, scope: { kind: 'archived' } }],
		layout: input.layout
	});
}

/** Counts what a decision would do, and leaves no draft behind. @throws Refusal */
export async function tryDecision(
	context: Context,
	mailbox: Mailbox,
	line: Decided,
	{ ahead = false } = {}
): Promise<Decided & LineSums> {
	// what will be due on a day to come can be looked at, and no more than that
	if (!ahead) await checkDecided(context, mailbox, line);
	const paused = await pausedOn(context.db, mailbox.id, today(context));
	return { ...line, ...(await countSelection(context.db, mailbox.id, line, paused)) };
}

/** Counts what archiving would do, and leaves no draft behind. @throws Refusal */
export async function tryArchiving(context: Context, input: ArchivingInput): Promise<Decided & LineSums> {
	const mailbox = await requireMailbox(context, input.mailbox);
	return tryDecision(context, mailbox, await archivingLine(context, mailbox, input));
}

/** Drafts a docket of its own with one decision. @throws Refusal */
export async function prepareDocket(
	context: Context,
	input: { mailboxId: number; lines: readonly Decided[]; name?: string }
): Promise<DocketView> {
	const { lines, name } = input;
	return draftOf(context, await requireMailboxId(context, input.mailboxId), {
		lines,
		...(name === undefined ? {} : { name })
	});
}

/** Drafts a docket that restores items of one mailbox. */
export async function prepareRestoring(
	context: Context,
	input: { mailboxId: number; ids: number[] }
): Promise<DocketView> {
	const line: Decided = { decision: 'restore', options: {}, scope: { kind: 'items', ids: input.ids } };
	return prepareDocket(context, { mailboxId: input.mailboxId, lines: [line] });
}

/** The items of a wish to restore, by mailbox; ids that are none are counted. */
export async function itemsByMailbox(
	context: Context,
	ids: readonly number[]
): Promise<{ mailboxes: Map<number, number[]>; unknown: number }> {
	const found = await itemsById(context.db, ids);
	const mailboxes = new Map<number, number[]>();
	for (const { id, mailboxId } of found) mailboxes.set(mailboxId, [...(mailboxes.get(mailboxId) ?? []), id]);
	return { mailboxes, unknown: new Set(ids).size - found.length };
}

/** Drops a draft. @throws Refusal where it is none any more */
export async function dropDocket(context: Context, input: { id: number }): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const docket = await requireDraft({ ...context, db }, input.id);
		await putDocketState(db, docket.id, 'dropped');
	});
}
