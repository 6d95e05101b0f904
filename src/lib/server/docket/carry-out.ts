import { type Decision, isForGood, isOnLists, isPlace } from '../../../core/docket/decisions.ts';
import type { Left } from '../../../core/docket/effects.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import { showCount, showMessages } from '../../../core/weigh/units.ts';
import { type Db, inTransaction } from '../database/open.ts';
import {
	type Batch,
	changeBatch,
	type Changed,
	countLeftSince,
	type Direction,
	formerFolders,
	nextBatch,
	putProgress
} from './carrying-out-store.ts';
import { destroyItems, emptyTheLog, ensureCertificate, messagesToDestroy } from './destroying-store.ts';
import { type Docket, getDocket, putDocketState } from './dockets-store.ts';
import { keepArchiveFoldersInUse, reviveFolders } from '../mail/folders-store.ts';
import { refreshStatistics } from '../mail/items-store.ts';
import type { Mailbox } from '../mail/mailboxes-store.ts';
import { appendLedger } from '../ledger/ledger-store.ts';
import { countWaiting } from '../lists/leaving-store.ts';
import { deleteWords } from '../mail/messages-store.ts';
import { refreshDue } from '../standing/due-store.ts';
import { appliedSettings } from '../standing/retention-store.ts';
import { getSetting } from '../database/settings-store.ts';
import { addFreed } from '../mail/weights-store.ts';
import { pausedOn } from '../standing/pauses-store.ts';
import { Refusal } from '../refusal.ts';
import { type Context, today } from '../context/context.ts';
import { closeCertificate } from './certificates.ts';
import { undoOnLists } from '../lists/decide-lists.ts';
import { requireMailboxId } from '../mail/mailboxes.ts';
import { requireDocket, viewDocket } from './show-docket.ts';
import { readStored } from '../mail/reread-mail.ts';
import { begin, type CarryOutInput } from './begin-docket.ts';

/** What was done with a docket. */
export interface DocketOutcome {
	docket: number;
	messages: number;
	bytes: number;
	left: Left[];
	/** False where it was stopped on the way; it can be gone on with. */
	finished: boolean;
	/** How many lists that it leaves wait to be asked to stop (lists/leave-lists). */
	toAsk: number;
}

/** Items of one transaction: it takes about a second, and the summaries are changed once for all of them. */
export const BATCH_ITEMS = 40_000;
/* Of what is destroyed the words have to be read again, one by one. */
const BATCH_DESTROYED = 500;

/* ---- batches ------------------------------------------------------------------------------------------------------- */

/* Of what goes for good, the words are taken out of the index before the bytes that tell them are gone. */
async function destroyBatch(context: Context, batch: Batch, mailbox: Mailbox, decidedBy: string): Promise<Changed> {
	const { db } = context;
	const paused = await pausedOn(db, mailbox.id, today(context));
	const messages = await messagesToDestroy(db, batch, paused);
	for await (const read of readStored(context, messages)) await deleteWords(db, read);
	const certificateId = await ensureCertificate(db, {
		docketId: batch.docketId,
		mailbox: mailbox.name,
		at: context.now().toISOString(),
		who: context.who,
		decidedBy
	});
	const keepsSubjects = (await getSetting(db, 'certificate-keeps')) === 'subject';
	return destroyItems(db, batch, messages, { mailboxId: mailbox.id, certificateId, keepsSubjects, paused });
}

const NOTHING: Changed = {
	messages: 0,
	bytes: 0,
	freedMessages: 0,
	freedBytes: 0,
	once: { messages: 0, bytes: 0 }
};

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

async function changeOne(context: Context, docket: Docket, batch: Batch, direction: Direction): Promise<Changed> {
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
		await noteStep(context, moved, { ...sums.once, direction, more, certificateHash });
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

/* How many items were frozen, of the lines before one. */
const frozenBefore = (docket: Docket, position: number) =>
	docket.lines.filter((line) => line.position < position).reduce((sum, { messages }) => sum + messages, 0);

async function steps(context: Context, id: number, direction: Direction): Promise<boolean> {
	const docket = await requireDocket(context, id);
	const total = frozenBefore(docket, Infinity);
	let done = frozenBefore(docket, docket.progressPosition);
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
 * @param input.confirm what the person typed to confirm that something is destroyed (core/docket/confirmation)
 * @throws Refusal
 */
export async function carryOut(context: Context, input: CarryOutInput): Promise<DocketOutcome> {
	await begin(context, input);
	const finished = await steps(context, input.id, 'carry-out');
	const docket = await requireDocket(context, input.id);
	const changed = finished ? await countLeftSince(context.db, docket) : 0;
	const left = docket.lines.flatMap((line) => line.left);
	return {
		docket: docket.id,
		messages: docket.messages,
		bytes: docket.bytes,
		left: changed > 0 ? [...left, { reason: 'changed', messages: changed }] : left,
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
