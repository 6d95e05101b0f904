import type { DecisionOptions } from '../../../core/docket/decision.ts';
import { type Decision, decisionsOn } from '../../../core/docket/decisions.ts';
import { compareLots, type Grouping, type Lot, lotsLabel, type LotSort } from '../../../core/lots/lots.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import {
	checkedQuery,
	condition,
	inLots,
	type ItemRow,
	itemsWhere,
	type Mailbox,
	requireFolder,
	requireMailboxes,
	requireMailboxId,
	type Tag,
	tagsOfItems,
	weighItems
} from '../mail/index.ts';
import { groupItems } from './lots-store.ts';
import {
	areDatesInOrder,
	datesOfLots,
	isSummed,
	type SummedGrouping,
	summedLots,
	type SummedOrder,
	summedTotal
} from './summed-lots-store.ts';
import { all, changeNumber, type Condition, inList, sql } from '../database/index.ts';
import { decide, type Decided, type DocketView, type LotsScope, type Scope, tryDecision } from '../docket/index.ts';
import {
	type Context,
	count,
	decisionOptions,
	defineUseCase,
	grouping,
	id,
	mailboxIds,
	text,
	today
} from '../context/index.ts';
import { isJunkMark, JUNK_MARKS, type JunkMark, markLines } from '../lists/index.ts';
import { Refusal } from '../refusal.ts';
import Joi from 'joi';

/** The grouping and the filters of a sheet. */
export interface Sheet {
	/** Undefined: several mailboxes. */
	mailboxId?: number | undefined;
	/** Which of them; undefined: all. */
	mailboxIds?: readonly number[] | undefined;
	by: Grouping;
	/** Only mail found by this search. */
	query?: string | undefined;
	/** Only this folder with its subfolders. */
	folder?: string | undefined;
	/** Only mail in a lot of another grouping: the addresses of an organisation. */
	within?: { by: Grouping; key: string } | undefined;
}

/** A range of rows of a sheet. */
export interface SheetPart extends Sheet {
	sort?: LotSort | undefined;
	descending?: boolean | undefined;
	offset?: number | undefined;
	limit: number;
}

/** Lots of a sheet, with the sums of all. */
export interface SheetRows {
	lots: Lot[];
	offset: number;
	total: Weight & { lots: number };
	/** Bytes of the heaviest lot: the full length of a bar. */
	heaviest: number;
}

interface Grouped {
	/** All of them, or the first ones: see {@link FIRST_LOTS}. */
	lots: Lot[];
	/** Set: only lots that were shown have dates, those with these keys. */
	dated?: { by: SummedGrouping; keys: Set<string> } | undefined;
	total: SheetRows['total'];
	heaviest: number;
}

/* The last sheets shown, and of so many lots in all: scrolling takes slices of them. */
const KEPT_SHEETS = 40;
const KEPT_LOTS = 400_000;
/* Those that are named and handed on before somebody scrolls on: a hundred thousand threads take half a second. */
const FIRST_LOTS = 1_000;
const sheets = new Map<string, Grouped>();

function keepSheet(key: string, made: Grouped): void {
	sheets.set(key, made);
	let kept = 0;
	for (const [at, [one, { lots }]] of [...sheets].reverse().entries()) {
		kept += lots.length;
		if ((kept > KEPT_LOTS || at >= KEPT_SHEETS) && one !== key) sheets.delete(one);
	}
}

async function sheetWhere(
	context: Context,
	{ mailboxId, mailboxIds: several, query = '', folder, within }: Sheet
): Promise<Condition> {
	const asked = checkedQuery(query, { today: today(context) });
	const parts: Condition[] = [sql`item.state = 'live'`];
	if (mailboxId !== undefined) parts.unshift(sql`item.mailbox_id = ${mailboxId}`);
	else if (several) parts.unshift(sql`item.mailbox_id IN ${inList(several)}`);
	if (folder) {
		if (mailboxId === undefined)
			throw new Refusal('bad-input', 'A folder is that of one mailbox: select the mailbox first.');
		const { ids } = await requireFolder(context, await requireMailboxId(context, mailboxId), folder);
		parts.push(sql`item.folder_id IN (SELECT value FROM json_each(${JSON.stringify(ids)}))`);
	}
	if (query) parts.push(condition(asked));
	if (within) parts.push(inLots(within.by, [within.key], today(context)));
	return all(parts);
}

const DATE_SORTS: readonly LotSort[] = ['oldest', 'newest', 'answered'];

const mailboxIdsOf = async (context: Context, { mailboxId, mailboxIds }: Sheet) =>
	mailboxId === undefined
		? (mailboxIds ?? (await requireMailboxes(context, undefined)).map(({ id }) => id))
		: [mailboxId];

const ORDERS: readonly LotSort[] = ['bytes', 'messages', 'unread'] satisfies SummedOrder[];
const isSummedOrder = (sort: LotSort): sort is SummedOrder => ORDERS.includes(sort);

/* The lots of all live mail, from a summary: the first ones, without their dates, or all where the order needs names or dates. */
async function summedSheet(
	context: Context,
	sheet: Sheet,
	by: SummedGrouping,
	{ sort, descending, until }: Wanted
): Promise<Grouped> {
	const boxes = await mailboxIdsOf(context, sheet);
	const isOrdered = isSummedOrder(sort);
	const { lots, count, heaviest } = await summedLots(context.db, by, boxes, today(context), {
		withMailbox: sheet.mailboxId === undefined,
		order: isOrdered ? sort : 'bytes',
		descending: isOrdered ? descending : true,
		limit: isOrdered && until <= FIRST_LOTS ? FIRST_LOTS : undefined
	});
	const total = { lots: count, ...(await summedTotal(context.db, boxes)) };
	const dated = { by, keys: new Set<string>() };
	if (isOrdered) return { lots, dated, total, heaviest };
	const byDate = DATE_SORTS.includes(sort);
	const sorted = byDate ? await withDates(context, sheet, by, lots) : lots;
	return {
		lots: sorted.sort(compareLots(sort, descending)),
		dated: byDate ? undefined : dated,
		total,
		heaviest
	};
}

async function scannedSheet(context: Context, sheet: Sheet, { sort, descending }: Wanted): Promise<Grouped> {
	const where = await sheetWhere(context, sheet);
	const withMailbox = sheet.mailboxId === undefined;
	const lots = await groupItems(context.db, sheet.by, today(context), where, { withMailbox });
	const sum = (of: 'messages' | 'bytes') => lots.reduce((total, lot) => total + lot[of], 0);
	// a message in two lots, as with two tags, counts once in the total
	const isOften = sheet.by === 'tag' || sheet.by === 'attachment';
	const weight = isOften ? await weighItems(context.db, where) : { messages: sum('messages'), bytes: sum('bytes') };
	return {
		lots: lots.sort(compareLots(sort, descending)),
		total: { lots: lots.length, ...weight },
		heaviest: lots.reduce((most, { bytes }) => Math.max(most, bytes), 0)
	};
}

async function withDates(context: Context, sheet: Sheet, by: SummedGrouping, lots: readonly Lot[]): Promise<Lot[]> {
	const keys = lots.map(({ key }) => key);
	const dates = await datesOfLots(context.db, by, await mailboxIdsOf(context, sheet), keys, today(context));
	return lots.map((lot) => ({ ...lot, ...dates.get(lot.key) }));
}

/* Looks up the dates of a part of the lots, once. */
async function dateLots(context: Context, sheet: Sheet, { lots, dated }: Grouped, from: number, until: number) {
	if (!dated) return;
	const missing = lots.slice(from, until).filter(({ key }) => !dated.keys.has(key));
	if (missing.length === 0) return;
	const found = new Map((await withDates(context, sheet, dated.by, missing)).map((lot) => [lot.key, lot]));
	for (const [at, lot] of lots.slice(from, until).entries()) lots[from + at] = found.get(lot.key) ?? lot;
	for (const key of found.keys()) dated.keys.add(key);
}

/** What is asked of a sheet: its order, and how far down its rows are shown. */
interface Wanted {
	sort: LotSort;
	descending: boolean;
	until: number;
}

async function grouped(context: Context, sheet: Sheet, wanted: Wanted): Promise<Grouped> {
	const { by, query, folder, within } = sheet;
	const { sort, descending, until } = wanted;
	const key = JSON.stringify([
		context.dataFolder,
		await changeNumber(context.db),
		sheet,
		today(context),
		sort,
		descending
	]);
	const known = sheets.get(key);
	if (known && (known.lots.length === known.total.lots || until <= known.lots.length)) return known;
	const isWhole = !query && !folder && !within;
	const isDated = !DATE_SORTS.includes(sort) || (isSummed(by) && areDatesInOrder(by));
	const made =
		isWhole && isSummed(by) && isDated
			? await summedSheet(context, sheet, by, wanted)
			: await scannedSheet(context, sheet, wanted);
	keepSheet(key, made);
	return made;
}

/** A part of a sheet. @throws Refusal */
export async function listLots(context: Context, input: SheetPart): Promise<SheetRows> {
	const { sort = 'bytes', descending = sort !== 'label', offset = 0, limit, ...sheet } = input;
	const until = offset + limit;
	const made = await grouped(context, sheet, { sort, descending, until });
	await dateLots(context, sheet, made, offset, until);
	const { lots, total, heaviest } = made;
	return { lots: lots.slice(offset, until), offset, total, heaviest };
}

/** A message of a lot. */
export interface LotItem extends ItemRow {
	tags: Tag[];
}

/** The messages of a lot, the newest first. @throws Refusal */
export async function lotItems(
	context: Context,
	input: Sheet & { key: string; offset?: number | undefined; limit: number }
): Promise<{ items: LotItem[]; total: number }> {
	const { key, offset = 0, limit, ...sheet } = input;
	const where = await sheetWhere(context, { ...sheet, within: { by: sheet.by, key } });
	const { items, total } = await itemsWhere(context.db, where, limit, offset);
	const tags = await tagsOfItems(
		context.db,
		items.map(({ id }) => id)
	);
	return { items: items.map((item) => ({ ...item, tags: tags.get(item.id) ?? [] })), total };
}

/** The selection on a sheet. */
export interface LotsDecision extends Sheet {
	decision: Decision | JunkMark;
	options: DecisionOptions;
	/** Undefined: all matching lots, except those in `withoutKeys`. */
	keys?: string[] | undefined;
	withoutKeys?: string[] | undefined;
	/** Single messages left out. */
	without?: number[] | undefined;
	/** Single messages added. */
	items?: number[] | undefined;
	/** Names of the lots, if there are few. */
	labels?: string[] | undefined;
}

function inWords({ by, keys, query = '', folder, labels = [] }: Omit<LotsDecision, 'decision' | 'options'>): string {
	return [
		lotsLabel(by, labels, keys?.length),
		folder ? `in ${folder} and below` : '',
		query ? `that ${keys ? 'also ' : ''}match “${query}”` : ''
	]
		.filter(Boolean)
		.join(' ');
}

/** Lots of a sheet, as the scope of a docket's line. @throws Refusal */
export async function lotsScope(
	context: Context,
	mailbox: Mailbox,
	wish: Omit<LotsDecision, 'decision' | 'options'>
): Promise<LotsScope> {
	const { by, keys, withoutKeys = [], without = [], query = '', folder } = wish;
	return {
		kind: 'lots',
		by,
		keys,
		withoutKeys,
		without,
		query,
		folderIds: folder ? (await requireFolder(context, mailbox, folder)).ids : undefined,
		on: today(context),
		label: inWords(wish)
	};
}

/** The lines of a decision on a sheet, for one mailbox. */
export async function lotsLines(context: Context, mailbox: Mailbox, wish: LotsDecision): Promise<Decided[]> {
	const { decision, options, keys, items = [] } = wish;
	const scopes: Scope[] = [];
	if (keys === undefined || keys.length > 0) scopes.push(await lotsScope(context, mailbox, wish));
	if (items.length > 0) scopes.push({ kind: 'items', ids: items });
	const lines: Decided[] = [];
	for (const scope of scopes)
		if (isJunkMark(decision)) lines.push(...(await markLines(context, mailbox, scope, decision)));
		// "the newest of each" applies to lots; single messages are taken as they are
		else
			lines.push({
				decision,
				options: scope.kind === 'items' ? { ...options, keepNewest: undefined } : options,
				scope
			});
	return lines;
}

/**
 * Puts a decision on lots on the docket of each mailbox concerned. Nothing is carried out yet.
 *
 * @throws Refusal
 */
export async function decideLots(context: Context, input: LotsDecision): Promise<DocketView[]> {
	const mailboxes =
		input.mailboxId === undefined
			? await requireMailboxes(context, input.mailboxIds)
			: [await requireMailboxId(context, input.mailboxId)];
	const dockets: DocketView[] = [];
	for (const mailbox of mailboxes) {
		if (input.decision === 'archive' && !mailbox.archives && input.mailboxId === undefined) continue;
		let docket: DocketView | undefined;
		for (const line of await lotsLines(context, mailbox, input)) {
			// for a sheet over several mailboxes, only those with mail in these lots
			if (input.mailboxId === undefined && (await tryDecision(context, mailbox, line)).messages === 0) continue;
			docket = await decide(context, { mailboxId: mailbox.id, line });
		}
		if (docket) dockets.push(docket);
	}
	if (dockets.length === 0) throw new Refusal('bad-input', 'Select lots first. Nothing was done.');
	return dockets;
}

/** The use cases of this file. */
export const lotsUseCases = [
	defineUseCase({
		name: 'listLots',
		input: () =>
			Joi.object({
				sort: Joi.valid('newest', 'oldest', 'bytes', 'messages', 'label', 'unread', 'answered'),
				descending: Joi.boolean(),
				offset: count,
				limit: count.required(),
				mailboxId: id,
				mailboxIds,
				by: grouping.required(),
				query: text,
				folder: text,
				within: Joi.object({
					by: grouping.required(),
					key: text.required()
				})
			}).required(),
		thread: 'heavy',
		right: 'administrator',
		run: listLots
	}),
	defineUseCase({
		name: 'decideLots',
		input: () =>
			Joi.object({
				decision: Joi.valid(...decisionsOn('sheet'), ...JUNK_MARKS).required(),
				options: decisionOptions.required(),
				keys: Joi.array().items(text).max(200_000),
				withoutKeys: Joi.array().items(text),
				labels: Joi.array().items(text),
				mailboxId: id,
				mailboxIds,
				by: grouping.required(),
				query: text,
				folder: text,
				within: Joi.object({
					by: grouping.required(),
					key: text.required()
				})
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: decideLots
	})
] as const;
