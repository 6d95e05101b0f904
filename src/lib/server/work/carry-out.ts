import { leftSentence, type Left } from '../../../core/docket/effects.ts';
import { showCount, showMessages } from '../../../core/weigh/units.ts';
import { inTransaction } from '../database/open.ts';
import {
	addDone,
	addTakenBack,
	batchEnd,
	changeBatch,
	formerFolders,
	freezeItems,
	frozenCount,
	lineOrigins,
	type Target
} from '../stores/carrying-out.ts';
import { type Docket, type DocketLine, getDocket, putDocketState, putLineSums } from '../stores/dockets.ts';
import { ensureFolder, keepArchiveFoldersInUse, reviveFolders } from '../stores/folders.ts';
import { refreshStatistics } from '../stores/items.ts';
import { appendLedger } from '../stores/ledger.ts';
import { countSelection } from '../stores/scopes.ts';
import { archivePath } from '../../../core/archive/layout.ts';
import { Refusal } from '../refusal.ts';
import type { Context } from './context.ts';
import { financialYearMonth } from './archiving.ts';
import { requireMailboxId } from './mailboxes.ts';
import { requireDocket, viewDocket } from './prepare-docket.ts';

/** What was done with a docket. */
export interface DocketOutcome {
	docket: number;
	messages: number;
	bytes: number;
	left: Left[];
	/** False where it was stopped on the way; it can be gone on with. */
	finished: boolean;
}

/** Items of one transaction: it takes about a second, and the summaries are changed once for all of them. */
export const BATCH_ITEMS = 40_000;

interface Expected {
	messages: number;
	bytes: number;
}

/* Archiving goes into the archive's tree as the docket's layout says; restoring needs the folders that items came from. */
async function freeze(context: Context, docket: Docket, line: DocketLine): Promise<void> {
	const { db } = context;
	const origins = await lineOrigins(db, docket, line);
	if (line.decision === 'restore') {
		await reviveFolders(
			db,
			origins.flatMap(({ folderId }) => (folderId === null ? [] : [folderId]))
		);
		const needsInbox = origins.some(({ folderId }) => folderId === null);
		const inbox = needsInbox ? (await ensureFolder(db, docket.mailboxId, 'mailbox', 'Inbox')).id : undefined;
		await freezeItems(db, docket, line, [], inbox);
		return;
	}
	const firstMonth = await financialYearMonth(context);
	const made = new Map<string, number>();
	const targets: Target[] = [];
	for (const { folderId, path, month } of origins) {
		const place = archivePath(path, month, docket.layout, firstMonth);
		const targetId = made.get(place) ?? (await ensureFolder(db, docket.mailboxId, 'archive', place)).id;
		made.set(place, targetId);
		targets.push({ folderId, month, targetId });
	}
	await freezeItems(db, docket, line, targets, undefined);
}

/* Freezes the items of a draft, if it still means what the person saw. */
async function begin(context: Context, id: number, expected: Expected | undefined): Promise<void> {
	const changed = await inTransaction(context.db, async (db) => {
		const docket = await requireDocket({ ...context, db }, id);
		if (docket.state === 'carrying-out') return undefined;
		if (docket.state !== 'drafted')
			throw new Refusal(
				'not-possible',
				`Docket ${id} was ${docket.state.replace('-', ' ')} already. Nothing was done.`
			);
		const mailbox = await requireMailboxId({ ...context, db }, docket.mailboxId);
		if (!mailbox.archives && docket.lines.some(({ decision }) => decision === 'archive'))
			throw new Refusal('not-possible', `${mailbox.name} is set to archive nothing by now. Nothing was done.`);
		const now = { messages: 0, bytes: 0 };
		for (const line of docket.lines) {
			const sums = await countSelection(db, docket.mailboxId, line.decision, line.scope);
			await putLineSums(db, docket.id, line.id, sums);
			now.messages += sums.messages;
			now.bytes += sums.bytes;
		}
		if (expected && (now.messages !== expected.messages || now.bytes !== expected.bytes)) return now;
		for (const line of docket.lines) await freeze({ ...context, db }, docket, line);
		await putDocketState(db, docket.id, 'carrying-out', { at: context.now(), who: context.who });
		return undefined;
	});
	if (changed && expected)
		throw new Refusal(
			'changed',
			`The mailbox has changed since this docket was drafted: it meant ${showMessages(expected.messages)}, now it means ${showMessages(changed.messages)}. It was counted again and nothing was done; look at it once more.`
		);
}

interface Step {
	messages: number;
	bytes: number;
	more: boolean;
}

/* One batch, with its ledger line, in one transaction. */
async function step(context: Context, id: number, direction: 'carry-out' | 'take-back'): Promise<Step> {
	return inTransaction(context.db, async (db) => {
		const docket = await requireDocket({ ...context, db }, id);
		const under = direction === 'carry-out' ? 'carrying-out' : 'taking-back';
		if (docket.state !== under) return { messages: 0, bytes: 0, more: false };
		const after = docket.progressItemId;
		const last = await batchEnd(db, id, after, BATCH_ITEMS);
		const sums =
			last === undefined ? { messages: 0, bytes: 0 } : await changeBatch(db, direction, { docketId: id, after, last });
		const more = last !== undefined && (await batchEnd(db, id, last, 1)) !== undefined;
		if (direction === 'carry-out') await addDone(db, id, sums, after === 0);
		else await addTakenBack(db, id, sums.messages);
		if (!more) await putDocketState(db, id, direction === 'carry-out' ? 'carried-out' : 'taken-back');
		const now = (await getDocket(db, id)) as Docket;
		const mailbox = await requireMailboxId({ ...context, db }, docket.mailboxId);
		await appendLedger(db, {
			at: context.now(),
			who: context.who,
			action: direction === 'carry-out' ? 'docket-carried-out' : 'docket-taken-back',
			details: {
				docket: id,
				mailbox: mailbox.name,
				what: viewDocket(now, mailbox).sentences.join(' '),
				...sums,
				...(more ? { continues: true } : {})
			}
		});
		return { ...sums, more };
	});
}

async function steps(context: Context, id: number, direction: 'carry-out' | 'take-back'): Promise<boolean> {
	const total = await frozenCount(context.db, id);
	const { progressItemId } = await requireDocket(context, id);
	let done = progressItemId === 0 ? 0 : total - (await frozenCount(context.db, id, progressItemId));
	let more = true;
	while (more && !context.signal.aborted) {
		({ more } = await step(context, id, direction));
		done = more ? done + BATCH_ITEMS : total;
		context.report({ done, total, note: `${showCount(done)} of ${showMessages(total)}` });
	}
	if (!more)
		await inTransaction(context.db, async (db) => {
			const { mailboxId } = await requireDocket({ ...context, db }, id);
			await keepArchiveFoldersInUse(db, mailboxId, context.now().toISOString());
			await refreshStatistics(db);
		});
	return !more;
}

/**
 * Carries out a docket, or goes on with one that was stopped or cut off: the only way in which an item's state changes.
 *
 * @param input.expected what the person saw; where the docket means something else by now, nothing is done
 * @throws Refusal
 */
export async function carryOut(
	context: Context,
	input: { id: number; expected?: Expected | undefined }
): Promise<DocketOutcome> {
	await begin(context, input.id, input.expected);
	const frozen = await frozenCount(context.db, input.id);
	const finished = await steps(context, input.id, 'carry-out');
	const docket = await requireDocket(context, input.id);
	const changed = frozen - docket.messages;
	const left = docket.lines.flatMap((line) => line.left);
	return {
		docket: docket.id,
		messages: docket.messages,
		bytes: docket.bytes,
		left: finished && changed > 0 ? [...left, { reason: 'changed', messages: changed }] : left,
		finished
	};
}

/**
 * Takes a docket back: items that are still as it left them become what they were; the others are counted and stay.
 *
 * @throws Refusal
 */
export async function takeBack(context: Context, input: { id: number }): Promise<DocketOutcome> {
	await inTransaction(context.db, async (db) => {
		const docket = await requireDocket({ ...context, db }, input.id);
		if (docket.state === 'taking-back') return;
		if (docket.state !== 'carried-out' && docket.state !== 'carrying-out')
			throw new Refusal('not-possible', `Docket ${docket.id} was not carried out, so there is nothing to take back.`);
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
		finished
	};
}

/** What was left out, in sentences. */
export function leftSentences(left: readonly Left[]): string[] {
	return left.map(leftSentence);
}
