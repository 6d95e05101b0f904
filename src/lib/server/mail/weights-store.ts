import type { ItemState } from '../../../core/docket/decision.ts';
import { ATTACHMENT_KINDS, type AttachmentKind } from '../../../core/message/kinds.ts';
import type { MonthWeight } from '../../../core/weigh/growth.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import { change, type Db, empty, inList, join, raw, row, rows, type Sql, sql } from '../database/index.ts';
import { SIZE_BAND } from './lot-keys-store.ts';

/* ---- keeping the summaries ---- */

/* The month in which an item counts; empty if its date is in doubt. */
const MONTH = sql`CASE WHEN item.date_in_doubt = 1 OR item.received_on IS NULL THEN '' ELSE substr(item.received_on, 1, 7) END`;

/* Months as numbers and back, for summing. */
const MONTH_NUMBER = sql`CASE WHEN item.date_in_doubt = 1 OR item.received_on IS NULL THEN 0
	ELSE 100 * substr(item.received_on, 1, 4) + substr(item.received_on, 6, 2) END`;
const MONTH_NAME = sql`CASE month WHEN 0 THEN '' ELSE printf('%04d-%02d', month / 100, month % 100) END`;

/* Mailbox, old and new state as one number: most changes share one, and need no sorting by it. */
const NUMBERED: ItemState[] = ['live', 'archived', 'binned', 'destroyed'];
const NULL = sql`NULL`;
/* It did not exist before, or does not exist after. */
const NONE = 7;
const NUMBERS = join(
	NUMBERED.map((name, n) => sql`WHEN ${name} THEN ${n}`),
	' '
);
const stateNumber = (state: Sql | undefined) =>
	state ? sql`ifnull(CASE ${state} ${NUMBERS} END, ${NONE})` : sql`${NONE}`;
const sideSql = (before: Sql | undefined, after: Sql | undefined) =>
	sql`64 * item.mailbox_id + 8 * ${stateNumber(before)} + ${stateNumber(after)}`;
const sideOf = (side: number) => ({
	mailboxId: Math.floor(side / 64),
	old: NUMBERED[Math.floor(side / 8) % 8],
	new: NUMBERED[side % 8]
});

/* States that count against the quota (invariant 2). */
const countsAgainstQuota = (state: ItemState | undefined) => state === 'live' || state === 'binned';

/* Unread before and after as one number: fewer columns sort faster. */
const OLD_UNREAD = 2 ** 31;

const UNREAD = sql`ifnull(item.seen = 0, 0)`;

/* The summaries, with their keys and how an item has them. */
interface Summary {
	table: string;
	keys: Record<string, Sql>;
}
const SUMMARIES: Summary[] = [
	{ table: 'weight_by_month', keys: { folder_id: sql`item.folder_id`, month: MONTH } },
	{ table: 'weight_by_correspondent', keys: { correspondent_id: sql`item.correspondent_id` } },
	{ table: 'weight_by_list', keys: { list_id: sql`ifnull(item.list_id, 0)` } },
	{
		table: 'weight_by_form',
		keys: { size_band: SIZE_BAND, attachment_kinds: sql`item.attachment_kinds`, mail_kind: sql`item.mail_kind` }
	}
];
const KEYS = Object.assign({}, ...SUMMARIES.map(({ keys }) => keys)) as Record<string, Sql>;
const KEY_NAMES = Object.keys(KEYS);

/**
 * The changed items: a SELECT's FROM and WHERE with `item`, and SQL of the state and folder under which each counts
 * before and after; undefined: it did not exist, or does not any more.
 */
export interface WeightChange {
	from: Sql;
	before: Counted | undefined;
	after: Counted | undefined;
}

/** The sums of a change. */
export interface Shifted extends Weight {
	/** Bytes freed of the quota (invariant 2); negative if it grows. */
	freedMessages: number;
	freedBytes: number;
}

/** SQL of the keys of an item: state and folder, and whether it is unread if that changes. */
interface Counted {
	state: Sql;
	folder: Sql;
	unread?: Sql;
}

/**
 * Changes the summaries by a set of items; in the transaction that changes the items, before they are changed.
 *
 * @returns the number of items, their bytes, and the bytes freed of the quota
 */
export async function shiftWeights(db: Db, { from, before, after }: WeightChange): Promise<Shifted> {
	// read once, then summed by each key; integers sort fastest
	await change(
		db,
		sql`CREATE TEMP TABLE IF NOT EXISTS moved (side INTEGER, bytes INTEGER, unread INTEGER, old_folder_id INTEGER,
			${raw(KEY_NAMES.map((name) => `${name} INTEGER`).join(', '))})`
	);
	await change(db, sql`DELETE FROM temp.moved`);
	const keys = KEY_NAMES.map((name) =>
		name === 'folder_id' ? (after?.folder ?? NULL) : name === 'month' ? MONTH_NUMBER : KEYS[name]
	);
	await change(
		db,
		sql`INSERT INTO temp.moved SELECT ${sideSql(before?.state, after?.state)}, item.bytes,
			${OLD_UNREAD} * (${before?.unread ?? UNREAD}) + (${after?.unread ?? UNREAD}), ${before?.folder ?? NULL},
			${join(keys)} FROM ${from}`
	);
	const sides = await rows<Weight & { side: number }>(
		db,
		sql`SELECT side, count(*) AS messages, sum(bytes) AS bytes FROM temp.moved GROUP BY side`
	);
	const shifted: Shifted = { messages: 0, bytes: 0, freedMessages: 0, freedBytes: 0 };
	for (const { side, messages, bytes } of sides) {
		for (const summary of SUMMARIES) await shiftSummary(db, summary, side);
		const freed = Number(countsAgainstQuota(sideOf(side).old)) - Number(countsAgainstQuota(sideOf(side).new));
		shifted.messages += messages;
		shifted.bytes += bytes;
		shifted.freedMessages += freed * messages;
		shifted.freedBytes += freed * bytes;
	}
	if (before) for (const { table } of SUMMARIES) await change(db, sql`DELETE FROM ${raw(table)} WHERE messages = 0`);
	return shifted;
}

/* Subtracts the items before, adds the items after. */
async function shiftSummary(db: Db, { table, keys }: Summary, side: number): Promise<void> {
	const { mailboxId, ...states } = sideOf(side);
	const names = Object.keys(keys);
	const oldNames = names.map((name) => (name === 'folder_id' ? 'old_folder_id' : name));
	const grouped = raw([...new Set([...names, ...oldNames])].join(', '));
	const half = (state: ItemState | undefined, sign: 1 | -1, columns: string[], unread: Sql) =>
		state
			? [
					sql`SELECT ${mailboxId}, ${state}, ${join(columns.map((name) => (name === 'month' ? MONTH_NAME : raw(name))))},
						${sign} * messages, ${sign} * bytes, ${sign} * (${unread}) FROM summed`
				]
			: [];
	const halves = [
		...half(states.old, -1, oldNames, sql`unread / ${raw(String(OLD_UNREAD))}`),
		...half(states.new, 1, names, sql`unread % ${raw(String(OLD_UNREAD))}`)
	];
	if (halves.length === 0) return;
	await change(
		db,
		sql`WITH summed AS MATERIALIZED (
			SELECT ${grouped}, count(*) AS messages, sum(bytes) AS bytes, sum(unread) AS unread
			FROM temp.moved WHERE side = ${side} GROUP BY ${grouped}
		 )
		 INSERT INTO ${raw(table)} (mailbox_id, state, ${raw(names.join(', '))}, messages, bytes, unread)
		 SELECT * FROM (${join(halves, ' UNION ALL ')}) WHERE true
		 ON CONFLICT DO UPDATE SET messages = messages + excluded.messages, bytes = bytes + excluded.bytes,
			unread = unread + excluded.unread`
	);
}

/* A summary computed from the items. */
const counted = (keys: Record<string, Sql>) => {
	const values = join(Object.values(keys));
	return sql`SELECT item.mailbox_id, item.state, ${values}, count(*), sum(item.bytes), sum(ifnull(item.seen = 0, 0))
		FROM item WHERE item.state <> 'destroyed' GROUP BY item.mailbox_id, item.state, ${values}`;
};
const columns = (keys: Record<string, Sql>) =>
	raw(`mailbox_id, state, ${Object.keys(keys).join(', ')}, messages, bytes, unread`);

/**
 * Recomputes the summaries from the items and compares.
 *
 * @returns how many of their rows differ
 */
export async function compareWeights(db: Db): Promise<number> {
	let differing = 0;
	for (const { table, keys } of SUMMARIES) {
		const found = await row<{ n: number }>(
			db,
			sql`WITH now AS MATERIALIZED (${counted(keys)}), kept AS MATERIALIZED (SELECT ${columns(keys)} FROM ${raw(table)})
			 SELECT (SELECT count(*) FROM (SELECT * FROM now EXCEPT SELECT * FROM kept))
				+ (SELECT count(*) FROM (SELECT * FROM kept EXCEPT SELECT * FROM now)) AS n`
		);
		differing += found?.n ?? 0;
	}
	return differing;
}

/* ---- weighing ---- */

/** A weight with its name, and the number of unread messages. */
export interface NamedWeight extends Weight {
	key: string;
	/** Its usual name, if that differs. */
	label?: string;
	unread: number;
}

/** The mail to be weighed. */
export interface Weighed {
	mailboxIds: readonly number[];
	/** What counts against the quota (invariant 2), live mail, or archived mail. */
	states: 'quota' | 'live' | 'archived';
}

const STATES = { quota: sql`('live', 'binned')`, live: sql`('live')`, archived: sql`('archived')` };
const SUMS = sql`sum(messages) AS messages, sum(bytes) AS bytes, sum(unread) AS unread`;
const where = ({ mailboxIds, states }: Weighed) =>
	sql`WHERE mailbox_id IN ${inList(mailboxIds)} AND state IN ${STATES[states]}`;

/** The weight of each folder without its subfolders. */
export async function weightByFolder(db: Db, weighed: Weighed): Promise<Map<number, Weight & { unread: number }>> {
	const found = await rows<Weight & { unread: number; folderId: number }>(
		db,
		sql`SELECT folder_id AS folderId, ${SUMS} FROM weight_by_month ${where(weighed)} GROUP BY folder_id`
	);
	return new Map(found.map(({ folderId, ...weight }) => [folderId, weight]));
}

/** By month of receipt, the oldest first; an empty key: dates in doubt. */
export async function weightByMonth(db: Db, weighed: Weighed): Promise<NamedWeight[]> {
	return rows<NamedWeight>(
		db,
		sql`SELECT month AS key, ${SUMS} FROM weight_by_month ${where(weighed)} GROUP BY 1 ORDER BY 1`
	);
}

/** By folder and year of receipt, without dates in doubt. */
export async function weightByFolderAndYear(
	db: Db,
	weighed: Weighed
): Promise<{ folderId: number; year: string; bytes: number }[]> {
	return rows(
		db,
		sql`SELECT folder_id AS folderId, substr(month, 1, 4) AS year, sum(bytes) AS bytes FROM weight_by_month ${where(weighed)}
			AND month <> '' GROUP BY 1, 2 ORDER BY 2`
	);
}

/** The years in which mail of some folders was received for certain, the first one first. */
export async function yearsOfFolders(db: Db, weighed: Weighed, folderIds: readonly number[]): Promise<string[]> {
	const found = await rows<{ year: string }>(
		db,
		sql`SELECT DISTINCT substr(month, 1, 4) AS year FROM weight_by_month ${where(weighed)}
			AND month <> '' AND folder_id IN (SELECT value FROM json_each(${JSON.stringify(folderIds)})) ORDER BY 1`
	);
	return found.map(({ year }) => year);
}

/** By organisation, the heaviest first; an empty key: no address. */
export async function weightByOrganisation(db: Db, weighed: Weighed, limit: number): Promise<NamedWeight[]> {
	return rows<NamedWeight>(
		db,
		sql`SELECT organisation.domain AS key, ${SUMS}
		 FROM weight_by_correspondent weight JOIN correspondent ON correspondent.id = correspondent_id
			JOIN organisation ON organisation.id = organisation_id
		 ${where(weighed)} GROUP BY organisation.id ORDER BY bytes DESC, key LIMIT ${limit}`
	);
}

/** By address, the heaviest first; an empty key: no address. */
export async function weightByAddress(db: Db, weighed: Weighed, limit: number): Promise<NamedWeight[]> {
	return rows<NamedWeight>(
		db,
		sql`SELECT address AS key, name AS label, weight.messages, weight.bytes, weight.unread FROM (
			SELECT correspondent_id, ${SUMS} FROM weight_by_correspondent ${where(weighed)}
			GROUP BY correspondent_id ORDER BY bytes DESC LIMIT ${limit}
		 ) weight JOIN correspondent ON correspondent.id = correspondent_id ORDER BY weight.bytes DESC, key`
	);
}

/** By list, the heaviest first; only mail from lists. */
export async function weightByList(db: Db, weighed: Weighed, limit: number): Promise<NamedWeight[]> {
	return rows<NamedWeight>(
		db,
		sql`SELECT list.identifier AS key, list.name AS label, weight.messages, weight.bytes, weight.unread FROM (
			SELECT list_id, ${SUMS} FROM weight_by_list ${where(weighed)} AND list_id <> 0
			GROUP BY list_id ORDER BY bytes DESC LIMIT ${limit}
		 ) weight JOIN list ON list.id = weight.list_id ORDER BY weight.bytes DESC, key`
	);
}

/** By band of size, the smallest first; the key is the band's number. */
export async function weightByBand(db: Db, weighed: Weighed): Promise<(Weight & { band: number; unread: number })[]> {
	return rows(db, sql`SELECT size_band AS band, ${SUMS} FROM weight_by_form ${where(weighed)} GROUP BY 1 ORDER BY 1`);
}

/** Messages with attachments, by kind; one with two kinds counts under both. */
export async function weightByKind(
	db: Db,
	weighed: Weighed
): Promise<(Weight & { kind: AttachmentKind | 'none'; unread: number })[]> {
	const found = await rows<Weight & { kinds: number; unread: number }>(
		db,
		sql`SELECT attachment_kinds AS kinds, ${SUMS} FROM weight_by_form ${where(weighed)} GROUP BY 1`
	);
	const sum = (having: (kinds: number) => boolean) =>
		found
			.filter(({ kinds }) => having(kinds))
			.reduce(
				(total, one) => ({
					messages: total.messages + one.messages,
					bytes: total.bytes + one.bytes,
					unread: total.unread + one.unread
				}),
				{ messages: 0, bytes: 0, unread: 0 }
			);
	return [
		...ATTACHMENT_KINDS.map((kind, bit) => ({ kind, ...sum((kinds) => (kinds & (1 << bit)) !== 0) })),
		{ kind: 'none' as const, ...sum((kinds) => kinds === 0) }
	].filter(({ messages }) => messages > 0);
}

/** A large message. */
export interface LargeMessage {
	id: number;
	subject: string;
	fromName: string;
	fromAddress: string;
	receivedOn: string | null;
	folder: string;
	mailboxId: number;
	bytes: number;
	attachments: number;
}

/** The largest messages over 100 kB, the largest first. */
export async function largestMessages(db: Db, { mailboxIds, states }: Weighed, limit: number): Promise<LargeMessage[]> {
	const largest: LargeMessage[] = [];
	// mailbox by mailbox: the index gives the largest of each without sorting
	for (const mailboxId of mailboxIds) largest.push(...(await largestOf(db, mailboxId, states, limit)));
	return largest.sort((a, b) => b.bytes - a.bytes || a.id - b.id).slice(0, limit);
}

async function largestOf(db: Db, mailboxId: number, states: Weighed['states'], limit: number): Promise<LargeMessage[]> {
	return rows<LargeMessage>(
		db,
		sql`SELECT item.id, subject, from_name AS fromName, from_address AS fromAddress, received_on AS receivedOn,
			folder.path AS folder, item.mailbox_id AS mailboxId, bytes, item.attachments
		 FROM item INDEXED BY item_by_size JOIN message ON message.id = item.message_id JOIN folder ON folder.id = item.folder_id
		 WHERE item.mailbox_id = ${mailboxId} AND item.bytes >= 100000 AND item.state IN ${STATES[states]}
		 ORDER BY item.bytes DESC LIMIT ${limit}`
	);
}

/** The weight of a mailbox in each state. */
export async function weightByState(
	db: Db
): Promise<(Weight & { mailboxId: number; state: string; unread: number })[]> {
	return rows(db, sql`SELECT mailbox_id AS mailboxId, state, ${SUMS} FROM weight_by_month GROUP BY mailbox_id, state`);
}

/** What counts against every mailbox's quota, by month of receipt. */
export async function monthsOfMailboxes(db: Db): Promise<(MonthWeight & { mailboxId: number })[]> {
	return rows(
		db,
		sql`SELECT mailbox_id AS mailboxId, month, sum(messages) AS messages, sum(bytes) AS bytes FROM weight_by_month
		 WHERE state IN ${STATES.quota} AND month <> '' GROUP BY 1, 2 ORDER BY 1, 2`
	);
}

/** Live mail received before the first day of a month, of one folder or all: exact from the summary. */
export async function liveBeforeMonth(
	db: Db,
	mailboxId: number,
	month: string,
	folderIds?: readonly number[]
): Promise<Weight> {
	const found = await row<Weight>(
		db,
		sql`SELECT ifnull(sum(messages), 0) AS messages, ifnull(sum(bytes), 0) AS bytes FROM weight_by_month
		 WHERE mailbox_id = ${mailboxId} AND state = 'live' AND month <> '' AND month < ${month}
			${folderIds ? sql`AND folder_id IN ${inList(folderIds)}` : empty}`
	);
	return found ?? { messages: 0, bytes: 0 };
}

/** The weight of a mailbox's bin; with a date, of mail binned by then. */
export async function weighBinned(db: Db, mailboxId: number, by: string | undefined): Promise<Weight> {
	const found = await row<Weight>(
		db,
		sql`SELECT count(*) AS messages, ifnull(sum(bytes), 0) AS bytes FROM item INDEXED BY item_in_bin
		 WHERE mailbox_id = ${mailboxId} AND state = 'binned' ${by === undefined ? empty : sql`AND binned_on <= ${by}`}`
	);
	return found ?? { messages: 0, bytes: 0 };
}

/** The weight of a mailbox's bin, by due date. */
export async function binByDueDate(db: Db, mailboxId: number, binDays: number): Promise<(Weight & { day: string })[]> {
	return rows(
		db,
		sql`SELECT date(binned_on, '+' || ${binDays} || ' days') AS day, count(*) AS messages, sum(bytes) AS bytes FROM item INDEXED BY item_in_bin
		 WHERE mailbox_id = ${mailboxId} AND state = 'binned' GROUP BY binned_on ORDER BY binned_on`
	);
}

/** Adds to the bytes freed on a day. */
export async function addFreed(
	db: Db,
	mailboxId: number,
	day: string,
	{ freedMessages, freedBytes }: Shifted
): Promise<void> {
	if (freedMessages === 0) return;
	await change(
		db,
		sql`INSERT INTO freed (mailbox_id, day, messages, bytes) VALUES (${mailboxId}, ${day}, ${freedMessages}, ${freedBytes})
		 ON CONFLICT DO UPDATE SET messages = messages + excluded.messages, bytes = bytes + excluded.bytes`
	);
}

/** The bytes freed by day; of one mailbox, or all together. */
export async function freedByDay(db: Db, mailboxId: number | undefined): Promise<(Weight & { day: string })[]> {
	return rows(
		db,
		sql`SELECT day, sum(messages) AS messages, sum(bytes) AS bytes FROM freed ${mailboxId === undefined ? empty : sql`WHERE mailbox_id = ${mailboxId}`}
		 GROUP BY day ORDER BY day`
	);
}

/** How many live messages are in the inbox of a mailbox. */
export async function weighInbox(db: Db, mailboxId: number): Promise<Weight> {
	const found = await row<Weight>(
		db,
		sql`SELECT ifnull(sum(messages), 0) AS messages, ifnull(sum(bytes), 0) AS bytes FROM weight_by_month
		 WHERE mailbox_id = ${mailboxId} AND state = 'live' AND folder_id IN (SELECT id FROM folder WHERE mailbox_id = ${mailboxId} AND role = 'inbox')`
	);
	return found ?? { messages: 0, bytes: 0 };
}

/** How many unread messages lie in the inbox of each mailbox that has one. */
export async function unreadInInboxes(db: Db): Promise<Map<number, number>> {
	const found = await rows<{ id: number; unread: number }>(
		db,
		sql`SELECT folder.mailbox_id AS id, ifnull(sum(unread), 0) AS unread FROM folder LEFT JOIN weight_by_month weight
			ON weight.mailbox_id = folder.mailbox_id AND weight.folder_id = folder.id AND state = 'live'
		 WHERE role = 'inbox' AND tree = 'mailbox' AND removed_at IS NULL GROUP BY folder.mailbox_id`
	);
	return new Map(found.map(({ id, unread }) => [id, unread]));
}

/** How many messages a mailbox has, in any state. */
export async function countItems(db: Db, mailboxId: number): Promise<number> {
	const found = await row<{ n: number }>(
		db,
		sql`SELECT ifnull(sum(messages), 0) AS n FROM weight_by_month WHERE mailbox_id = ${mailboxId}`
	);
	return found?.n ?? 0;
}

/** Counts the summaries anew from the items. */
export async function recountWeights(db: Db): Promise<void> {
	for (const key of ['month', 'correspondent', 'list', 'form'])
		await change(db, sql`DELETE FROM ${raw(`weight_by_${key}`)}`);
	await shiftWeights(db, {
		from: sql`item WHERE item.state <> 'destroyed'`,
		before: undefined,
		after: { state: sql`item.state`, folder: sql`item.folder_id` }
	});
}
