import { archivePath } from '../../../core/archive/layout.ts';
import { isForGood, isOnLists } from '../../../core/docket/decisions.ts';
import { endsItems } from '../../../core/docket/effects.ts';
import { readTerms } from '../../../core/retention/terms.ts';
import { confirmationFor, isConfirmedBy } from '../../../core/docket/confirmation.ts';
import { showMessages } from '../../../core/weigh/units.ts';
import { inTransaction } from '../database/open.ts';
import { type Destination, freezeItems, lineOrigins, type Target } from './carrying-out-store.ts';
import { claimedSums, claimedTotal, settleClaims } from './claims-store.ts';
import {
	type Docket,
	type DocketLine,
	listDockets,
	putDocketState,
	putLineOptions,
	putLineSums
} from './dockets-store.ts';
import { binOf, ensureFolder, findFolder, reviveFolders } from '../mail/folders-store.ts';
import type { Mailbox } from '../mail/mailboxes-store.ts';
import { REDUNDANT } from './scopes-store.ts';
import { addPause, type Paused, pausedOn } from '../standing/pauses-store.ts';
import { weighNewWorking } from '../standing/due-store.ts';
import { beginRetention, ensurePeriod, governed, retentionOfSeries } from '../standing/retention-store.ts';
import { findSeries } from '../standing/series-store.ts';
import { putOnSlip } from './slips-store.ts';
import { ensureTag, findTag } from '../mail/tags-store.ts';
import { Refusal } from '../refusal.ts';
import { type Context, today } from '../context/context.ts';
import { financialYearMonth } from '../standing/financial-year.ts';
import { beginOnLists } from '../lists/decide-lists.ts';
import { requireMailboxId } from '../mail/mailboxes.ts';
import { holdWhatIsCovered, recount, requireSettled } from './prepare-docket.ts';
import { requireDocket } from './show-docket.ts';
import { requireApproval } from './approve-docket.ts';
import { requireReadAsNow } from '../mail/reread-mail.ts';
import { overQuotaWith } from '../standing/working-papers.ts';

interface Expected {
	messages: number;
	bytes: number;
}

/** A docket that is to be carried out. */
export interface CarryOutInput {
	id: number;
	/** What the person saw, else what was drafted; where the docket means something else by now, nothing is done. */
	expected?: Expected | undefined;
	/** What the person typed to confirm that something is destroyed. */
	confirm?: string | undefined;
	/** Nobody asks for it: a person has seen and carried out the first of its kind. */
	byItself?: boolean | undefined;
}

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
		case 'arrange':
			if (line.options.folder !== undefined)
				return { folderId: (await ensureFolder(db, mailboxId, 'archive', line.options.folder)).id };
			return { targets: await archiveTargets(context, docket, line, paused) };
		case 'archive':
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
	if (mailbox.workingQuotaBytes === undefined) return;
	const classes = await governed(db, mailbox.id);
	let added = 0;
	for (const line of docket.lines) {
		const { decision, options } = line;
		const to = decision === 'move' ? await findFolder(db, mailbox.id, 'mailbox', options.folder ?? '') : undefined;
		if ((to && classes.get(to.id)?.class === 'working') || (decision === 'classify' && options.class === 'working'))
			added += await weighNewWorking(db, line.id);
	}
	const over = await overQuotaWith(db, mailbox, added);
	if (over) throw new Refusal('not-possible', `${over} Nothing was done.`);
}

class ChangedSinceDrafted extends Error {}

/* Freezes the items of a draft: undoes it all where they are not what the person saw. */
async function freeze(context: Context, { id, expected, confirm, byItself = false }: CarryOutInput): Promise<void> {
	const { db } = context;
	const docket = await requireDocket(context, id);
	if (docket.state === 'carrying-out') return;
	if (docket.state !== 'drafted')
		throw new Refusal('not-possible', `Docket ${id} was ${docket.state.replace('-', ' ')} already. Nothing was done.`);
	if (docket.lines.length === 0) throw new Refusal('not-possible', `Docket ${id} decides nothing. Nothing was done.`);
	const mailbox = await requireMailboxId(context, docket.mailboxId);
	if (!mailbox.archives && docket.lines.some(({ decision }) => decision === 'archive'))
		throw new Refusal('not-possible', `${mailbox.name} is set to archive nothing by now. Nothing was done.`);
	if (docket.lines.some(({ decision }) => isForGood(decision))) {
		await requireReadAsNow(context);
		if (!byItself) await requireApproval(context, docket);
	}
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
	let destroyed = 0;
	for (const line of docket.lines) {
		const sums = await claimedSums(db, 'docket_item', line);
		await putLineSums(
			db,
			line.id,
			{ ...line, ...sums },
			conflicts.filter(({ wins, loses }) => wins === line.position || loses === line.position)
		);
		if (isForGood(line.decision)) destroyed += sums.messages;
	}
	const now = await claimedTotal(db, 'docket_item', docket);
	if (now.messages !== seen.messages || now.bytes !== seen.bytes) throw new ChangedSinceDrafted();
	// by what is frozen, not by what was drafted (invariant 21)
	const asked = byItself ? undefined : confirmationFor(destroyed, mailbox);
	if (asked && !isConfirmedBy(asked, confirm ?? ''))
		throw new Refusal(
			'bad-input',
			`This destroys ${showMessages(destroyed)} for good: confirm it with ${asked.of === 'mailbox' ? 'the name of the mailbox' : 'the word'}, "${asked.text}". Nothing was done.`
		);
	if (!byItself) await putOnSlip(db, context.who, docket.id);
	await putDocketState(db, docket.id, 'carrying-out', { at: context.now(), who: context.who });
}

/**
 * Begins to carry out a draft: its items are frozen, as they are. Where they are not what the person saw, nothing is done, and it is
 * counted again.
 *
 * @throws Refusal
 */
export async function begin(context: Context, input: CarryOutInput): Promise<void> {
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
