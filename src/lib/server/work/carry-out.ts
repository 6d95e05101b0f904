import { archivePath } from '../../../core/archive/layout.ts';
import { type Decision, isForGood, isOnLists, isPlace } from '../../../core/docket/decisions.ts';
import { endsItems } from '../../../core/docket/effects.ts';
import { readTerms } from '../../../core/retention/terms.ts';
import type { Left } from '../../../core/docket/effects.ts';
import { nameKey } from '../../../core/weigh/roles.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import { showBytes, showCount, showMessages } from '../../../core/weigh/units.ts';
import { type Db, inTransaction } from '../database/open.ts';
import {
	type Batch,
	changeBatch,
	claimedSums,
	type Destination,
	type Direction,
	formerFolders,
	freezeItems,
	frozenCounts,
	lineOrigins,
	nextBatch,
	putProgress,
	settleClaims,
	type Target
} from '../stores/carrying-out.ts';
import { destroyItems, emptyTheLog, ensureCertificate, messagesToDestroy } from '../stores/destroying.ts';
import {
	type Docket,
	type DocketLine,
	getDocket,
	listDockets,
	putDocketState,
	putLineOptions,
	putLineSums
} from '../stores/dockets.ts';
import { binOf, ensureFolder, findFolder, keepArchiveFoldersInUse, reviveFolders } from '../stores/folders.ts';
import { refreshStatistics } from '../stores/items.ts';
import type { Mailbox } from '../stores/mailboxes.ts';
import { REDUNDANT } from '../stores/scopes.ts';
import { appendLedger } from '../stores/ledger.ts';
import { countWaiting } from '../stores/leaving.ts';
import { deleteWords } from '../stores/messages.ts';
import { addPause, type Paused, pausedOn } from '../stores/pauses.ts';
import { largestWorking, refreshDue, weighNewWorking, weighWorking } from '../stores/due.ts';
import { appliedSettings, beginRetention, ensurePeriod, governed, retentionOfSeries } from '../stores/retention.ts';
import { findSeries } from '../stores/series.ts';
import { getSetting } from '../stores/settings.ts';
import { ensureTag, findTag } from '../stores/tags.ts';
import { addFreed, type Shifted } from '../stores/weights.ts';
import { Refusal } from '../refusal.ts';
import { type Context, today } from './context.ts';
import { financialYearMonth } from './archiving.ts';
import { closeCertificate } from './certificates.ts';
import { beginOnLists, undoOnLists } from './decide-lists.ts';
import { requireMailboxId } from './mailboxes.ts';
import { holdWhatIsCovered, recount, requireDocket, requireSettled, viewDocket } from './prepare-docket.ts';
import { readStored, requireReadAsNow } from './reread-mail.ts';

/** What was done with a docket. */
export interface DocketOutcome {
	docket: number;
	messages: number;
	bytes: number;
	left: Left[];
	/** False where it was stopped on the way; it can be gone on with. */
	finished: boolean;
	/** How many lists that it leaves wait to be asked to stop (work/leave-lists). */
	toAsk: number;
}

/** Items of one transaction: it takes about a second, and the summaries are changed once for all of them. */
export const BATCH_ITEMS = 40_000;
/* Of what is destroyed the words have to be read again, one by one. */
const BATCH_DESTROYED = 500;

interface Expected {
	messages: number;
	bytes: number;
}

interface CarryOutInput {
	id: number;
	expected?: Expected | undefined;
	confirm?: string | undefined;
}

/* ---- beginning ----------------------------------------------------------------------------------------------------- */

/* Archiving goes into the archive's tree as the docket's layout says. */
async function archiveTargets(context: Context, docket: Docket, line: DocketLine, paused: Paused): Promise<Target[]> {
	const { db } = context;
	const firstMonth = await financialYearMonth(context);
	const made = new Map<string, number>();
	const targets: Target[] = [];
	for (const { folderId, path, month } of await lineOrigins(db, docket, line, paused)) {
		const place = archivePath(path, month, docket.layout, firstMonth);
		const targetId = made.get(place) ?? (await ensureFolder(db, docket.mailboxId, 'archive', place)).id;
		made.set(place, targetId);
		targets.push({ folderId, month, targetId });
	}
	return targets;
}

/* Where the items of a line go; what it needs for that is made. */
async function destinationOf(context: Context, docket: Docket, line: DocketLine, paused: Paused): Promise<Destination> {
	const { db } = context;
	const { mailboxId } = docket;
	switch (line.decision) {
		case 'archive':
		case 'arrange':
			return { targets: await archiveTargets(context, docket, line, paused) };
		case 'restore': {
			const origins = await lineOrigins(db, docket, line, paused);
			await reviveFolders(
				db,
				origins.flatMap(({ folderId }) => (folderId === null ? [] : [folderId]))
			);
			const needsInbox = origins.some(({ folderId }) => folderId === null);
			return { backElse: needsInbox ? (await ensureFolder(db, mailboxId, 'mailbox', 'Inbox')).id : undefined };
		}
		case 'move':
			return { folderId: (await ensureFolder(db, mailboxId, 'mailbox', line.options.folder ?? '')).id };
		case 'delete':
			return { folderId: (await binOf(db, mailboxId)).id };
		case 'tag':
		case 'untag': {
			const name = line.options.tag ?? '';
			const tag = line.decision === 'tag' ? await ensureTag(db, name) : await findTag(db, name);
			await putLineOptions(db, line.id, { ...line.options, tagId: tag?.id });
			return 'here';
		}
		case 'pause': {
			const pauseId = await addPause(db, {
				mailboxId,
				folderId: null,
				until: line.options.until ?? '',
				because: line.options.because ?? '',
				madeBy: context.who,
				madeAt: context.now().toISOString()
			});
			await putLineOptions(db, line.id, { ...line.options, pauseId });
			return 'here';
		}
		case 'retain': {
			await beginRetention(db, mailboxId);
			await putLineOptions(db, line.id, { ...line.options, retentionId: await retentionFor(context, line.options) });
			return 'here';
		}
		case 'classify':
			await beginRetention(db, mailboxId);
			return 'here';
		default:
			return 'here';
	}
}

/* The series or period that a line gives; null: that of the folder again. */
async function retentionFor({ db }: Context, { series, terms }: DocketLine['options']): Promise<number | null> {
	if (terms !== undefined) return ensurePeriod(db, readTerms(terms));
	if (series === undefined) return null;
	const known = await findSeries(db, series);
	if (!known || known.removedAt !== null)
		throw new Refusal('not-found', `There is no series ${series} any more. Nothing was done.`);
	return retentionOfSeries(db, known.id);
}

const takesAway = ({ decision }: DocketLine) => endsItems(decision);
const takesRedundant = (line: DocketLine) =>
	takesAway(line) && line.scope.kind === 'proposal' && REDUNDANT.includes(line.scope.proposal);

/*
 * What a message repeats must not go by another docket that is half carried out: of two that were frozen one beside the
 * other, neither would see what the other one takes.
 */
async function requireNoneBetween({ db }: Context, docket: Docket): Promise<void> {
	if (!docket.lines.some(takesAway)) return;
	const { mailboxId } = docket;
	const begun = await listDockets(db, { mailboxId, states: ['carrying-out'], limit: 100 });
	const other = begun.find(
		({ lines }) => lines.some(takesAway) && (lines.some(takesRedundant) || docket.lines.some(takesRedundant))
	);
	if (other)
		throw new Refusal(
			'not-possible',
			`Docket ${other.id} was stopped on the way, and it deletes as well: go on with it or take it back first, so that no message goes together with the one that repeats it. Nothing was done.`
		);
}

/* Working papers have a quota of their own: when it is exceeded, nothing more can be put there. */
async function requireRoomForWorking({ db }: Context, docket: Docket, mailbox: Mailbox): Promise<void> {
	const { workingQuotaBytes: quota } = mailbox;
	if (quota === undefined) return;
	const classes = await governed(db, mailbox.id);
	let added = 0;
	for (const line of docket.lines) {
		const { decision, options } = line;
		const to = decision === 'move' ? await findFolder(db, mailbox.id, 'mailbox', options.folder ?? '') : undefined;
		if ((to && classes.get(to.id)?.class === 'working') || (decision === 'classify' && options.class === 'working'))
			added += await weighNewWorking(db, line.id);
	}
	if (added === 0) return;
	const now = await weighWorking(db, mailbox.id);
	if (now + added <= quota) return;
	const largest = (await largestWorking(db, mailbox.id, 3)).map(({ path, bytes }) => `${path} (${showBytes(bytes)})`);
	throw new Refusal(
		'not-possible',
		`Working papers of ${mailbox.name} may weigh ${showBytes(quota)}; with this they would weigh ${showBytes(now + added)}.${
			largest.length > 0 ? ` The quickest way to make room is in ${largest.join(', ')}.` : ''
		} Nothing was done.`
	);
}

class ChangedSinceDrafted extends Error {}

/* Freezes the items of a draft: undoes it all where they are not what the person saw. */
async function freeze(context: Context, { id, expected, confirm }: CarryOutInput): Promise<void> {
	const { db } = context;
	const docket = await requireDocket(context, id);
	if (docket.state === 'carrying-out') return;
	if (docket.state !== 'drafted')
		throw new Refusal('not-possible', `Docket ${id} was ${docket.state.replace('-', ' ')} already. Nothing was done.`);
	if (docket.lines.length === 0) throw new Refusal('not-possible', `Docket ${id} decides nothing. Nothing was done.`);
	const mailbox = await requireMailboxId(context, docket.mailboxId);
	if (!mailbox.archives && docket.lines.some(({ decision }) => decision === 'archive'))
		throw new Refusal('not-possible', `${mailbox.name} is set to archive nothing by now. Nothing was done.`);
	if (docket.lines.some(({ decision }) => isForGood(decision))) await requireReadAsNow(context);
	await requireSettled(context, docket);
	await requireNoneBetween(context, docket);
	const paused = await pausedOn(db, docket.mailboxId, today(context));
	await holdWhatIsCovered(context, docket, paused);
	for (const line of docket.lines)
		if (isOnLists(line.decision)) await beginOnLists(context, docket, line);
		else await freezeItems(db, docket, line, await destinationOf(context, docket, line, paused), paused);
	const { conflicts } = await settleClaims(db, 'docket_item', docket);
	await requireRoomForWorking(context, docket, mailbox);
	const seen = expected ?? { messages: docket.messages, bytes: docket.bytes };
	const now = { messages: 0, bytes: 0 };
	let destroyed = 0;
	for (const line of docket.lines) {
		const sums = await claimedSums(db, 'docket_item', line);
		await putLineSums(
			db,
			line.id,
			{ ...line, ...sums },
			conflicts.filter(({ wins, loses }) => wins === line.position || loses === line.position)
		);
		now.messages += sums.messages;
		now.bytes += sums.bytes;
		if (isForGood(line.decision)) destroyed += sums.messages;
	}
	if (now.messages !== seen.messages || now.bytes !== seen.bytes) throw new ChangedSinceDrafted();
	// destroying much wants the mailbox's name: a click can slip. By what is frozen, not by what was drafted
	if (destroyed > mailbox.confirmAbove && nameKey(confirm ?? '') !== nameKey(mailbox.name))
		throw new Refusal(
			'bad-input',
			`This destroys ${showMessages(destroyed)} for good: confirm it with the name of the mailbox, "${mailbox.name}". Nothing was done.`
		);
	await putDocketState(db, docket.id, 'carrying-out', { at: context.now(), who: context.who });
}

async function begin(context: Context, input: CarryOutInput): Promise<void> {
	const { id, expected } = input;
	try {
		await inTransaction(context.db, (db) => freeze({ ...context, db }, input));
	} catch (error) {
		if (!(error instanceof ChangedSinceDrafted)) throw error;
		const drafted = await requireDocket(context, id);
		const now = await inTransaction(context.db, (db) => recount({ ...context, db }, drafted));
		throw new Refusal(
			'changed',
			`The mailbox has changed since this docket was drafted: it meant ${showMessages((expected ?? drafted).messages)}, now it means ${showMessages(now.messages)}. It was counted again and nothing was done; look at it once more.`
		);
	}
}

/* ---- batches ------------------------------------------------------------------------------------------------------- */

/* Of what goes for good, the words are taken out of the index before the bytes that tell them are gone. */
async function destroyBatch(context: Context, batch: Batch, mailbox: Mailbox, decidedBy: string): Promise<Shifted> {
	const { db } = context;
	const messages = await messagesToDestroy(db, batch);
	for await (const read of readStored(context, messages)) await deleteWords(db, read);
	const certificateId = await ensureCertificate(db, {
		docketId: batch.docketId,
		mailbox: mailbox.name,
		at: context.now().toISOString(),
		who: context.who,
		decidedBy
	});
	const keepsSubjects = (await getSetting(db, 'certificate-keeps')) === 'subject';
	return destroyItems(db, batch, messages, { mailboxId: mailbox.id, certificateId, keepsSubjects });
}

const NOTHING: Shifted = { messages: 0, bytes: 0, freedMessages: 0, freedBytes: 0 };

interface Step extends Weight {
	items: number;
	more: boolean;
}

const sizeOf = (docket: Docket) =>
	docket.lines.some(({ decision }) => isForGood(decision)) ? BATCH_DESTROYED : BATCH_ITEMS;

const RETAINS: readonly Decision[] = ['classify', 'retain'];

/* What has been moved, or classed otherwise, is due otherwise; where nothing was ever set, nothing is due. */
async function refreshBatch(db: Db, mailboxId: number, { line, after, last }: Batch): Promise<void> {
	if ((await appliedSettings(db, mailboxId)).settings === 0) return;
	await refreshDue(db, mailboxId, {
		sql: `item.id IN (SELECT item_id FROM docket_item WHERE line_id = ? AND item_id > ? AND item_id <= ?)`,
		bindings: [line.id, after, last]
	});
}

async function changeOne(context: Context, docket: Docket, batch: Batch, direction: Direction): Promise<Shifted> {
	const { db } = context;
	const { decision, options } = batch.line;
	if (!isForGood(decision)) {
		const sums = await changeBatch(db, direction, batch, {
			today: today(context),
			tagId: options.tagId,
			pauseId: options.pauseId,
			retentionId: options.retentionId
		});
		if (RETAINS.includes(decision) || isPlace(decision)) await refreshBatch(db, docket.mailboxId, batch);
		return sums;
	}
	// what is destroyed does not come back
	if (direction === 'take-back') return NOTHING;
	const mailbox = await requireMailboxId(context, docket.mailboxId);
	return destroyBatch(context, batch, mailbox, docket.draftedBy);
}

/* One batch, with its ledger line, in one transaction. */
async function step(outer: Context, id: number, direction: Direction): Promise<Step> {
	return inTransaction(outer.db, async (db) => {
		const context = { ...outer, db };
		const docket = await requireDocket(context, id);
		const under = direction === 'carry-out' ? 'carrying-out' : 'taking-back';
		if (docket.state !== under) return { messages: 0, bytes: 0, items: 0, more: false };
		const batch = await nextBatch(db, docket, sizeOf(docket));
		const sums = batch ? await changeOne(context, docket, batch, direction) : NOTHING;
		if (batch) await putProgress(db, direction, batch, sums);
		await addFreed(db, docket.mailboxId, today(context), sums);
		const moved = (await getDocket(db, id)) as Docket;
		const more = batch !== undefined && (await nextBatch(db, moved, 1)) !== undefined;
		if (!more) await putDocketState(db, id, direction === 'carry-out' ? 'carried-out' : 'taken-back');
		const certificateHash = more || direction === 'take-back' ? undefined : await closeCertificate(db, id);
		await noteStep(context, moved, { ...sums, direction, more, certificateHash });
		return { messages: sums.messages, bytes: sums.bytes, items: sizeOf(docket), more };
	});
}

async function noteStep(
	context: Context,
	docket: Docket,
	{
		messages,
		bytes,
		direction,
		more,
		certificateHash
	}: Weight & { direction: Direction; more: boolean; certificateHash: string | undefined }
): Promise<void> {
	const mailbox = await requireMailboxId(context, docket.mailboxId);
	const { sentences, destroys } = viewDocket(docket, mailbox);
	await appendLedger(context.db, {
		at: context.now(),
		who: context.who,
		action: direction === 'carry-out' ? 'docket-carried-out' : 'docket-taken-back',
		details: {
			docket: docket.id,
			...(docket.name ? { name: docket.name } : {}),
			mailbox: mailbox.name,
			what: sentences.join(' '),
			messages,
			bytes,
			...(destroys && direction === 'carry-out' ? { certificate: docket.id } : {}),
			...(certificateHash ? { certificateHash } : {}),
			...(more ? { continues: true } : {})
		}
	});
}

/* How many frozen items lie behind the mark of progress. */
async function doneOf(db: Db, docket: Docket): Promise<{ done: number; total: number }> {
	const counts = await frozenCounts(db, docket.id);
	const total = [...counts.values()].reduce((sum, n) => sum + n, 0);
	const done = docket.lines
		.filter(({ position }) => position < docket.progressPosition)
		.reduce((sum, { id }) => sum + (counts.get(id) ?? 0), 0);
	return { done, total };
}

async function steps(context: Context, id: number, direction: Direction): Promise<boolean> {
	const docket = await requireDocket(context, id);
	const { done: before, total } = await doneOf(context.db, docket);
	let done = before;
	let more = true;
	while (more && !context.signal.aborted) {
		const stepped = await step(context, id, direction);
		more = stepped.more;
		done = more ? Math.min(total, done + stepped.items) : total;
		context.report({ done, total, note: `${showCount(done)} of ${showMessages(total)}` });
	}
	if (!more) await tidy(context, docket);
	return !more;
}

async function tidy(context: Context, docket: Docket): Promise<void> {
	if (docket.lines.some(({ decision }) => isPlace(decision)))
		await inTransaction(context.db, async (db) => {
			await keepArchiveFoldersInUse(db, docket.mailboxId, context.now().toISOString());
			await refreshStatistics(db);
		});
	if (docket.lines.some(({ decision }) => isForGood(decision))) await emptyTheLog(context.db);
}

/* ---- the use cases ------------------------------------------------------------------------------------------------- */

/**
 * Carries out a docket, or goes on with one that was stopped or cut off: the only way in which an item's state changes.
 *
 * @param input.expected what the person saw, else what was drafted; where the docket means something else by now, nothing is done
 * @param input.confirm the mailbox's name, where much is destroyed
 * @throws Refusal
 */
export async function carryOut(context: Context, input: CarryOutInput): Promise<DocketOutcome> {
	await begin(context, input);
	const frozen = [...(await frozenCounts(context.db, input.id)).values()].reduce((sum, n) => sum + n, 0);
	const finished = await steps(context, input.id, 'carry-out');
	const docket = await requireDocket(context, input.id);
	const changed = frozen - docket.messages;
	const left = docket.lines.flatMap((line) => line.left);
	return {
		docket: docket.id,
		messages: docket.messages,
		bytes: docket.bytes,
		left: finished && changed > 0 ? [...left, { reason: 'changed', messages: changed }] : left,
		finished,
		toAsk: await countWaiting(context.db, docket.id)
	};
}

/**
 * Takes a docket back: items that are still as it left them become what they were; the others are counted and stay.
 *
 * @throws Refusal
 */
export async function takeBack(context: Context, input: { id: number }): Promise<DocketOutcome> {
	await inTransaction(context.db, async (db) => {
		const docket = await requireDocket({ db }, input.id);
		if (docket.state === 'taking-back') return;
		if (docket.state !== 'carried-out' && docket.state !== 'carrying-out')
			throw new Refusal('not-possible', `Docket ${docket.id} was not carried out, so there is nothing to take back.`);
		if (docket.lines.every(({ decision }) => isForGood(decision)))
			throw new Refusal('not-possible', `Docket ${docket.id} destroyed what it was about; that cannot be taken back.`);
		const within = { ...context, db };
		const dropped = await undoOnLists(
			within,
			docket.lines.filter(({ decision }) => isOnLists(decision))
		);
		if (dropped === 0 && docket.lines.every(({ decision }) => decision === 'unsubscribe' || isForGood(decision)))
			throw new Refusal(
				'not-possible',
				`Docket ${docket.id} asked lists to stop; what was said to them cannot be taken back. Nothing was changed.`
			);
		await reviveFolders(db, await formerFolders(db, docket.id));
		await putDocketState(db, docket.id, 'taking-back', { at: context.now(), who: context.who });
	});
	const finished = await steps(context, input.id, 'take-back');
	const docket = await requireDocket(context, input.id);
	const stay = docket.messages - docket.takenBackMessages;
	return {
		docket: docket.id,
		messages: docket.takenBackMessages,
		bytes: docket.bytes,
		left: finished && stay > 0 ? [{ reason: 'changed', messages: stay }] : [],
		finished,
		toAsk: await countWaiting(context.db, docket.id)
	};
}
