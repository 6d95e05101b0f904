import { type Confirmation, confirmationFor } from '../../../core/docket/confirmation.ts';
import { ruleOf } from '../../../core/docket/decisions.ts';
import { changedSentence, conflictSentence, consequence, lineSentence } from '../../../core/docket/sentences.ts';
import { reachSentence } from '../../../core/sources/reach.ts';
import { inSnapshot, inTransaction, raw, sql } from '../database/index.ts';
import { claimedByFolder, claimItems, type ClaimTable, frozenByFolder, settleClaims } from './claims-store.ts';
import {
	type Docket,
	type DocketState,
	type DocketLine,
	getDocket,
	listDockets,
	OPEN_STATES
} from './dockets-store.ts';
import { type Certificate, getCertificate } from './certificates-store.ts';
import {
	type ItemRow,
	itemsWhere,
	type Mailbox,
	requireMailboxes,
	requireMailboxId,
	waitingOfDocket,
	type WaitingForServer
} from '../mail/index.ts';
import { pausedOn } from '../standing/index.ts';
import { workOf } from './decision-work.ts';
import type { Decided } from './scope.ts';
import { countByFolder, type FolderSums } from './selection-store.ts';
import { slipDockets, slipDrafts, takeOffSlip } from './slips-store.ts';
import { type Context, count, defineUseCase, id, mailboxIds, today } from '../context/index.ts';
import { Refusal } from '../refusal.ts';
import Joi from 'joi';

/** A line as it is shown. */
export interface LineView extends DocketLine {
	/** The decision in words. */
	sentence: string;
	/** Its consequences that are not obvious; empty if there are none. */
	consequence: string;
	/** Its conflicts with other lines, in words; shown on the losing line. */
	conflictSentences: string[];
	/** Bytes freed of the quota when it is carried out, and when the bin is emptied (invariant 2). */
	freedAtOnce: number;
	freedLater: number;
}

/** A docket as it is shown. */
export interface DocketView extends Omit<Docket, 'lines'> {
	mailbox: string;
	lines: LineView[];
	/** Each line in words. */
	sentences: string[];
	/** Bytes freed of the quota when it is carried out, and when the bin is emptied (invariant 2). */
	freedAtOnce: number;
	freedLater: number;
	/** How many lists it decides on. */
	onLists: number;
	/** Whether it destroys: it cannot be taken back then. */
	destroys: boolean;
	/** How many messages it destroys, and the text that confirms it; undefined: none. */
	destroyed: number;
	confirmation: Confirmation | undefined;
}

/** A docket with its counts by folder. */
export interface DocketInFull extends DocketView {
	folders: FolderSums[];
	/** For a draft that means other mail now than it was counted with: both counts in words; else empty. */
	changed: string;
	/** The lists of each line that decides on lists. */
	lists: { lineId: number; names: string[] }[];
	/** What the server of a live mailbox has still to confirm. */
	server: WaitingForServer;
}

/* Archived mail does not count against the quota, so destroying it frees nothing there (invariant 2). */
const freesAtOnce = ({ decision, scope }: Decided) =>
	ruleOf(decision).frees === 'at once' && !(scope.kind === 'due' && scope.state === 'archived');

/** The docket in words. */
export function viewDocket(docket: Docket, mailbox: Mailbox): DocketView {
	const drafted = docket.state === 'drafted';
	const isDone = docket.state === 'carried-out' || docket.state === 'taken-back';
	const lines = docket.lines.map((line): LineView => {
		const { decision, options, scope, folders, elsewhere } = line;
		const messages = drafted ? line.messages : line.doneMessages;
		const bytes = drafted ? line.bytes : line.doneBytes;
		return {
			...line,
			freedAtOnce: freesAtOnce(line) ? bytes : 0,
			freedLater: ruleOf(decision).frees === 'when the bin is emptied' ? bytes : 0,
			sentence: lineSentence(
				decision,
				{
					options,
					className: line.className ?? undefined,
					messages,
					bytes,
					folders,
					cutoff: scope.kind === 'before' ? scope.before : undefined,
					label: 'label' in scope ? scope.label : undefined,
					folderPath: scope.kind === 'before' ? scope.folderPath : undefined,
					withoutPaths: scope.kind === 'before' ? scope.withoutPaths : undefined,
					layout: docket.layout,
					lists: scope.kind === 'lists' ? scope.ids.length : undefined
				},
				isDone ? 'past' : 'to come'
			),
			consequence:
				messages > 0 || ruleOf(decision).about === 'lists'
					? [
							consequence(decision, { elsewhere, binDays: mailbox.binDays }),
							mailbox.server ? reachSentence(ruleOf(decision), options, mailbox.server) : ''
						]
							.filter(Boolean)
							.join(' ')
					: '',
			conflictSentences: line.conflicts
				.filter(({ loses }) => loses === line.position)
				.map((conflict) => {
					const of = (position: number) =>
						docket.lines.find((other) => other.position === position)?.decision ?? decision;
					return conflictSentence(conflict, { wins: of(conflict.wins), loses: of(conflict.loses) });
				})
		};
	});
	const destroyed = lines
		.filter(({ decision }) => ruleOf(decision).to === 'destroyed')
		.reduce((sum, line) => sum + (drafted ? line.messages : line.doneMessages), 0);
	const freed = (when: 'freedAtOnce' | 'freedLater') => lines.reduce((sum, line) => sum + line[when], 0);
	return {
		...docket,
		mailbox: mailbox.name,
		lines,
		sentences: lines.map(({ sentence }) => sentence),
		freedAtOnce: freed('freedAtOnce'),
		freedLater: freed('freedLater'),
		onLists: lines.reduce((sum, { scope }) => sum + (scope.kind === 'lists' ? scope.ids.length : 0), 0),
		destroys: lines.some(({ decision }) => ruleOf(decision).to === 'destroyed'),
		destroyed,
		confirmation: confirmationFor(destroyed, mailbox)
	};
}

/** The docket with that number. @throws Refusal */
export async function requireDocket({ db }: Pick<Context, 'db'>, id: number): Promise<Docket> {
	const docket = await getDocket(db, id);
	if (!docket) throw new Refusal('not-found', `There is no docket ${id}. Nothing was done.`);
	return docket;
}

async function foldersOfDraft(context: Context, docket: Docket): Promise<FolderSums[]> {
	const paused = await pausedOn(context.db, docket.mailboxId, today(context));
	if (docket.lines.length > 1) {
		// items of several lines count once; the temporary table of claims belongs to this connection
		return inSnapshot(context.db, async (db) => {
			await claimItems(db, docket, paused);
			await settleClaims(db, 'temp.claim', docket);
			return claimedByFolder(db);
		});
	}
	const [line] = docket.lines;
	return line ? countByFolder(context.db, docket.mailboxId, line, paused) : [];
}

/** A docket with its lines and its counts by folder. */
export async function showDocket(context: Context, input: { id: number }): Promise<DocketInFull> {
	const docket = await requireDocket(context, input.id);
	const mailbox = await requireMailboxId(context, docket.mailboxId);
	const isDraft = docket.state === 'drafted';
	const folders = isDraft ? await foldersOfDraft(context, docket) : await frozenByFolder(context.db, docket.id);
	const sum = (of: 'messages' | 'bytes') => folders.reduce((total, folder) => total + folder[of], 0);
	const now = { messages: sum('messages'), bytes: sum('bytes') };
	const isChanged = isDraft && (now.messages !== docket.messages || now.bytes !== docket.bytes);
	const changed = isChanged ? changedSentence(docket, now) : '';
	const lists: DocketInFull['lists'] = [];
	for (const { id, decision, scope } of docket.lines) {
		const work = workOf(decision);
		if (work.about === 'lists' && scope.kind === 'lists')
			lists.push({ lineId: id, names: await work.names(context, scope.ids) });
	}
	const server = await waitingOfDocket(context.db, docket.id);
	return { ...viewDocket(docket, mailbox), folders, changed, lists, server };
}

/** The messages of one line of a docket: those it would change, or has changed. @throws Refusal */
async function docketItems(
	context: Context,
	input: { id: number; lineId: number; limit: number; offset: number }
): Promise<{ items: ItemRow[]; total: number }> {
	const { db } = context;
	const docket = await requireDocket(context, input.id);
	const line = docket.lines.find(({ id }) => id === input.lineId);
	if (!line) throw new Refusal('not-found', `Docket ${docket.id} has no such line.`);
	const itemsOf = (table: ClaimTable, from: typeof db) => {
		const where = sql`item.id IN (SELECT item_id FROM ${raw(table)} WHERE line_id = ${line.id})`;
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

/** Another docket beside the one on the slip. */
export type OtherDocket = Pick<Docket, 'id' | 'name' | 'state' | 'messages' | 'draftedBy'>;

/* States in which a docket is a result. */
const ENDED: readonly DocketState[] = ['carried-out', 'taken-back'];

/** A person's slip in a mailbox. */
export interface Slip {
	/** The docket of their last decision, or its result until they dismiss it. */
	docket: DocketView | undefined;
	/** The certificate of what it destroyed. */
	certificate: Certificate | undefined;
	/** What the server of a live mailbox has still to confirm of it. */
	server: WaitingForServer;
	/** Their other dockets, and open ones prepared at night or by others. */
	others: OtherDocket[];
}

/** This person's slip in a mailbox. */
export async function showSlip(context: Context, input: { mailboxId: number; others: number }): Promise<Slip> {
	const mailbox = await requireMailboxId(context, input.mailboxId);
	const [shown, ...beneath] = await slipDockets(context.db, context.actor, mailbox.id);
	const open = await listDockets(context.db, { mailboxId: mailbox.id, states: OPEN_STATES, limit: input.others + 1 });
	const listed: OtherDocket[] = [];
	// what waits for somebody first, then this person's results
	for (const id of new Set([...open.map((one) => one.id), ...beneath])) {
		if (id === shown || listed.length === input.others) continue;
		const { name, state, messages, draftedBy } =
			open.find((one) => one.id === id) ?? (await requireDocket(context, id));
		listed.push({ id, name, state, messages, draftedBy });
	}
	const docket = shown === undefined ? undefined : viewDocket(await requireDocket(context, shown), mailbox);
	return {
		docket,
		certificate: docket?.destroys ? await getCertificate(context.db, { docketId: docket.id }) : undefined,
		server: docket ? await waitingOfDocket(context.db, docket.id) : { waiting: 0, refused: 0 },
		others: listed
	};
}

/**
 * This person's drafts in several mailboxes, those that their slips show.
 *
 * @param input.mailboxIds undefined: all mailboxes
 * @throws Refusal
 */
export async function showDrafts(
	context: Context,
	input: { mailboxIds?: number[] | undefined }
): Promise<DocketView[]> {
	const mailboxes = new Map((await requireMailboxes(context, input.mailboxIds)).map((one) => [one.id, one]));
	const drafts: DocketView[] = [];
	for (const id of await slipDrafts(context.db, context.actor, [...mailboxes.keys()])) {
		const docket = await requireDocket(context, id);
		drafts.push(viewDocket(docket, mailboxes.get(docket.mailboxId) as Mailbox));
	}
	return drafts;
}

/**
 * Takes a docket's result off this person's slip, with the older results beneath it.
 *
 * @throws Refusal while it is a draft: that is discarded, or stays
 */
export async function dismissDocket(context: Context, input: { id: number }): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const docket = await requireDocket({ db }, input.id);
		if (docket.state === 'drafted')
			throw new Refusal(
				'not-possible',
				`Docket ${docket.id} is a draft: carry it out or discard it. Nothing was done.`
			);
		const before = await slipDockets(db, context.actor, docket.mailboxId);
		for (const id of before.slice(Math.max(0, before.indexOf(docket.id))))
			if (ENDED.includes((await requireDocket({ db }, id)).state)) await takeOffSlip(db, context.actor, id);
	});
}

/** Dockets of a mailbox, or of all, the newest first; discarded drafts are left out. */
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

/** The use cases of this file. */
export const showDocketUseCases = [
	defineUseCase({
		name: 'showSlip',
		input: () => Joi.object({ mailboxId: id.required(), others: count.required() }).required(),
		thread: 'reader',
		right: 'administrator',
		run: showSlip
	}),
	defineUseCase({
		name: 'showDrafts',
		input: () => Joi.object({ mailboxIds }).required(),
		thread: 'reader',
		right: 'administrator',
		run: showDrafts
	}),
	defineUseCase({
		name: 'listedDockets',
		input: () => Joi.object({ mailboxId: id, limit: count.required(), drafts: Joi.boolean() }).required(),
		thread: 'reader',
		right: 'administrator',
		run: listedDockets
	}),
	defineUseCase({
		name: 'showDocket',
		input: () => Joi.object({ id: id.required() }).required(),
		thread: 'heavy',
		right: 'administrator',
		run: showDocket
	}),
	defineUseCase({
		name: 'docketItems',
		input: () =>
			Joi.object({
				id: id.required(),
				lineId: id.required(),
				limit: count.required(),
				offset: count.required()
			}).required(),
		thread: 'heavy',
		right: 'administrator',
		run: docketItems
	}),
	defineUseCase({
		name: 'dismissDocket',
		input: () => Joi.object({ id: id.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: dismissDocket
	})
] as const;
