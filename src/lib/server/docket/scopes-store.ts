import type { CalendarDate } from '../../../core/calendar.ts';
import {
	type Decision,
	type DecisionOptions,
	type Protection,
	protectionsFrom
} from '../../../core/docket/decisions.ts';
import {
	endsItems,
	isBarredByHold,
	isBarredForRecords,
	type Left,
	type LeftReason,
	statesOf
} from '../../../core/docket/effects.ts';
import type { Grouping } from '../../../core/lots/lots.ts';
import type { DueAction } from '../../../core/retention/terms.ts';
import { asksForDates, readQuery } from '../../../core/search/query.ts';
import { tagKey } from '../../../core/tags/names.ts';
import type { Db } from '../database/open.ts';
import { dueCondition } from '../standing/due-store.ts';
import { ENDED } from '../mail/item-marks-store.ts';
import { IS_RECORD } from '../mail/item-marks-store.ts';
import { HELD } from '../mail/item-marks-store.ts';
import { CLASS_NUMBERS } from '../mail/item-marks-store.ts';
import { inLots } from '../mail/lot-keys-store.ts';
import { lotKey } from '../mail/lot-keys-store.ts';
import type { Paused } from '../standing/pauses-store.ts';
import { rows } from '../database/rows.ts';
import { type Condition, condition } from '../mail/conditions-store.ts';

/** Which items a line of a docket means. */
export type Scope =
	/** Live items received before a date, of one folder with its subfolders or of the whole mailbox. */
	| { kind: 'before'; before: string; folderIds: number[] | undefined; folderPath: string | undefined }
	/** What a search finds, in whatever folder of the mailbox; `label` says it in words. */
	| { kind: 'query'; query: string; label: string }
	| LotsScope
	/** What was found safe to clear, of one kind; undefined: all of it. */
	| { kind: 'proposal'; proposal: string; ids: number[] | undefined; label: string }
	| DueScope
	/** What is in the bin; with a date, only what was put there by then. */
	| { kind: 'bin'; binnedBy: CalendarDate | undefined }
	/** What was destroyed before and has come back with an older state of the data: it goes again, whatever stands against it. */
	| { kind: 'again'; ids: number[]; label: string }
	| ArchivedScope
	| { kind: 'items'; ids: number[]; label?: string }
	/** Lists, rather than items. */
	| { kind: 'lists'; ids: number[]; label: string };

/** What is archived. */
export interface ArchivedScope {
	kind: 'archived';
	/** Folders of the archive; undefined: all of it. */
	folderIds?: number[] | undefined;
	/** Received in that year, beyond doubt. */
	year?: string | undefined;
	/** Which ones, in words, where it is not all of it. */
	label?: string | undefined;
}

/** Lots of a sheet. */
export interface LotsScope {
	kind: 'lots';
	by: Grouping;
	/** Undefined: all that match, those left out aside. */
	keys: string[] | undefined;
	/** Lots left out where all are meant. */
	withoutKeys: string[];
	/** Single items left out. */
	without: number[];
	/** The sheet's filter, as a search. */
	query: string;
	/** A folder with those below it; undefined: the whole mailbox. */
	folderIds: number[] | undefined;
	/** The day of the sheet, from which ages count. */
	on: CalendarDate;
	/** Which ones, in words. */
	label: string;
}

/** What is due by the retention schedule. */
export interface DueScope {
	kind: 'due';
	/** For what; those that are to be looked at are decided on by a person. */
	action: DueAction;
	/** By which day, and from which day on. */
	by: CalendarDate;
	since?: CalendarDate | undefined;
	/** Only what lies in folders, or in the archive; undefined: both. */
	state?: 'live' | 'archived' | undefined;
	/** Only some of them; undefined: all. */
	ids?: number[] | undefined;
	folderIds?: number[] | undefined;
	retentionIds?: number[] | undefined;
	/** Which ones, in words. */
	label: string;
}

/** A decision with the items it is about. */
export interface Decided {
	decision: Decision;
	options: DecisionOptions;
	scope: Scope;
}

/** Sums of the items that a line means. */
export interface LineSums {
	messages: number;
	bytes: number;
	folders: number;
	oldest: string | undefined;
	newest: string | undefined;
	left: Left[];
	/** How many of the messages lie in another place too (invariant 4). */
	elsewhere: number;
}

/**
 * The store's form of core/docket/effects: of the items within reach of a scope, which ones the decision changes, and under
 * which name the others are left.
 */
export interface Selection {
	within: Condition;
	chosen: Condition;
	/** SQL that gives the reason for an item that is not chosen, null for one that is. */
	reason: Condition;
}

const all = (parts: readonly Condition[]): Condition => ({
	sql: parts.map(({ sql }) => sql).join(' AND '),
	bindings: parts.flatMap(({ bindings }) => bindings)
});
const plain = (sql: string): Condition => ({ sql, bindings: [] });
const listed = (sql: string, ids: readonly (number | string)[]): Condition => ({
	sql: `${sql} IN (SELECT value FROM json_each(?))`,
	bindings: [JSON.stringify(ids)]
});
const negated = ({ sql, bindings }: Condition): Condition => ({ sql: `NOT ${sql}`, bindings });

/** The items of a sheet: its filter, and the lots that are meant. */
export function sheetCondition({ by, keys, withoutKeys, query, folderIds, on, without }: LotsScope): Condition[] {
	return [
		...(folderIds ? [listed('item.folder_id', folderIds)] : []),
		...(query ? [condition(readQuery(query))] : []),
		...(keys ? [inLots(by, keys, on)] : []),
		...(withoutKeys.length > 0 ? [negated(inLots(by, withoutKeys, on))] : []),
		...(without.length > 0 ? [negated(listed('item.id', without))] : [])
	];
}

function reach(mailboxId: number, scope: Scope): Condition[] {
	const mailbox: Condition = { sql: `item.mailbox_id = ?`, bindings: [mailboxId] };
	switch (scope.kind) {
		case 'archived':
			return [
				mailbox,
				plain(`item.state = 'archived'`),
				...(scope.folderIds ? [listed('item.folder_id', scope.folderIds)] : []),
				...(scope.year === undefined
					? []
					: [
							{
								sql: `item.received_on >= ? AND item.received_on < ? AND item.date_in_doubt = 0`,
								bindings: [`${scope.year}-01-01`, `${Number(scope.year) + 1}-01-01`]
							}
						])
			];
		case 'due':
			return [
				mailbox,
				dueCondition({ ...scope, actions: [scope.action] }),
				...(scope.state ? [plain(`item.state = '${scope.state}'`)] : []),
				...(scope.ids ? [listed('item.id', scope.ids)] : [])
			];
		case 'lists':
			return [plain('0')];
		case 'items':
		case 'again':
			return [listed('item.id', scope.ids), mailbox];
		case 'query':
			return [mailbox, condition(readQuery(scope.query))];
		case 'bin':
			return [
				mailbox,
				plain(`item.state = 'binned'`),
				...(scope.binnedBy ? [{ sql: `item.binned_on <= ?`, bindings: [scope.binnedBy] }] : [])
			];
		case 'proposal':
			return [
				mailbox,
				{
					sql: `item.id IN (SELECT item_id FROM proposal_item WHERE mailbox_id = ? AND kind = ?)`,
					bindings: [mailboxId, scope.proposal]
				},
				...(scope.ids ? [listed('item.id', scope.ids)] : [])
			];
		case 'lots':
			// a sheet shows what lies in folders: what is elsewhere is not within its reach, rather than left
			return [mailbox, plain(`item.state = 'live'`), ...sheetCondition(scope)];
		case 'before':
			return [
				mailbox,
				plain(`item.state IN ('live', 'binned')`),
				...(scope.folderIds ? [listed('item.folder_id', scope.folderIds)] : [])
			];
	}
}

/** What is true of an item under a protection. */
export function protection(name: Protection, { pauses, folders }: Paused): Condition {
	if (name === 'flagged') return plain('item.flagged = 1');
	if (name === 'kept') return plain('item.kept = 1');
	if (pauses.length + folders.length === 0) return plain('0');
	return {
		sql: `(ifnull(item.pause_id IN (SELECT value FROM json_each(?)), 0)
			OR item.folder_id IN (SELECT value FROM json_each(?))
			OR ifnull(item.origin_folder_id IN (SELECT value FROM json_each(?)), 0))`,
		bindings: [JSON.stringify(pauses), JSON.stringify(folders), JSON.stringify(folders)]
	};
}

/* What an item has already that the decision would give it. */
function already({ decision, options }: Decided): Condition | undefined {
	switch (decision) {
		case 'flag':
			return plain('item.flagged = 1');
		case 'unflag':
			return plain('item.flagged = 0');
		case 'read':
			return plain('item.seen IS 1');
		case 'unread':
			return plain('item.seen IS 0');
		case 'keep':
			return plain('item.kept = 1');
		case 'release':
			return plain('item.kept = 0');
		case 'resume':
			return plain('item.pause_id IS NULL');
		case 'classify':
			return {
				sql: `item.own_class IS ?`,
				bindings: [options.class ? CLASS_NUMBERS[options.class] : null]
			};
		case 'tag':
		case 'untag':
			return {
				sql: `item.id ${decision === 'tag' ? '' : 'NOT'} IN (SELECT item_id FROM item_tag JOIN tag ON tag.id = tag_id WHERE tag.name_key = ?)`,
				bindings: [tagKey(options.tag ?? '')]
			};
		default:
			return undefined;
	}
}

/* What is destroyed at the end of its period has reached it by the day that the line names; of what names none, nothing has. */
const hasNotEnded = (scope: Scope): Condition =>
	scope.kind === 'due' ? { sql: `NOT ifnull(${ENDED}, 0)`, bindings: [scope.by] } : plain('1');

/* What somebody had back is not archived by itself the next night: they have some weeks to look at it, or to keep it. */
const HAD_BACK_DAYS = 30;
const hadBack = (by: CalendarDate): Condition => ({
	sql: `ifnull(item.docket_id IN (SELECT docket_id FROM docket_line JOIN docket ON docket.id = docket_id
		WHERE decision = 'restore' AND carried_out_at >= date(?, '-${HAD_BACK_DAYS} days')), 0)`,
	bindings: [by]
});

/* Whether an item is among the newest of its lot that live. */
function amongNewest(mailboxId: number, scope: Scope, count: number): Condition | undefined {
	if (scope.kind !== 'lots') return undefined;
	const inReach = all([
		...reach(mailboxId, { ...scope, without: [] }),
		plain('item.date_in_doubt = 0 AND item.received_on IS NOT NULL')
	]);
	return {
		sql: `item.id IN (SELECT id FROM (SELECT item.id, row_number() OVER (PARTITION BY ${lotKey(scope.by, scope.on)}
			ORDER BY item.received_on DESC, item.received_at DESC, item.id DESC) AS place FROM item WHERE ${inReach.sql}) WHERE place <= ?)`,
		bindings: [...inReach.bindings, count]
	};
}

const STILL_NEEDED = `EXISTS (SELECT 1 FROM proposal_item LEFT JOIN item better ON better.id = better_item_id
	WHERE proposal_item.mailbox_id = item.mailbox_id AND kind = ? AND item_id = item.id
		AND (better_item_id IS NULL OR better.state IN ('live', 'archived')))`;

/* Each reason to leave an item with the condition under which it is left, in the order in which they are given. */
function reasons(mailboxId: number, line: Decided, paused: Paused): { name: string; left: Condition }[] {
	const { decision, options, scope } = line;
	if (scope.kind === 'again') return [];
	const states = statesOf(decision).map((state) => `'${state}'`);
	const dated = scope.kind === 'before' || (scope.kind === 'query' && asksForDates(readQuery(scope.query)));
	const newest = options.keepNewest ? amongNewest(mailboxId, scope, options.keepNewest) : undefined;
	const same = already(line);
	return [
		{ name: 'item.state', left: plain(`item.state NOT IN (${states.join(', ')})`) },
		...(isBarredByHold(decision) ? [{ name: `'held'`, left: plain(HELD) }] : []),
		...(isBarredForRecords(decision, options) ? [{ name: `'record'`, left: plain(IS_RECORD) }] : []),
		...(decision === 'archive' && scope.kind === 'due' ? [{ name: `'had-back'`, left: hadBack(scope.by) }] : []),
		...(decision === 'dispose' ? [{ name: `'not-due'`, left: hasNotEnded(scope) }] : []),
		...(dated || options.keepNewest !== undefined || (scope.kind === 'lots' && asksForDates(readQuery(scope.query)))
			? [{ name: `'date-in-doubt'`, left: plain(`(item.date_in_doubt = 1 OR item.received_on IS NULL)`) }]
			: []),
		...(scope.kind === 'before'
			? [{ name: `'newer'`, left: { sql: `item.received_on >= ?`, bindings: [scope.before] } }]
			: []),
		...protectionsFrom(decision)
			.filter((name) => name !== options.only)
			.map((name) => ({ name: `'${name}'`, left: protection(name, paused) })),
		...(options.only ? [{ name: `'already'`, left: negated(protection(options.only, paused)) }] : []),
		...(same ? [{ name: `'already'`, left: same }] : []),
		...(newest ? [{ name: `'newest'`, left: newest }] : []),
		...(scope.kind === 'proposal' && REDUNDANT.includes(scope.proposal) && endsItems(decision)
			? [{ name: `'needed'`, left: { sql: `NOT ${STILL_NEEDED}`, bindings: [scope.proposal] } }]
			: [])
	];
}

/** Proposals that rest on another message: where that is gone, they stand no longer. */
export const REDUNDANT: readonly string[] = ['same-bytes', 'same-content', 'quoted-in-full', 'thanks'];

/* What is true of an item that is not left for such a reason; in a form that an index can be searched by. */
const CHOSEN: Record<string, (line: Decided) => Condition | undefined> = {
	'item.state': ({ decision }) =>
		plain(
			`item.state ${
				statesOf(decision).length === 1
					? `= '${statesOf(decision)[0]}'`
					: `IN (${statesOf(decision)
							.map((state) => `'${state}'`)
							.join(', ')})`
			}`
		),
	"'date-in-doubt'": () => plain(`item.date_in_doubt = 0 AND item.received_on IS NOT NULL`),
	"'newer'": ({ scope }) =>
		scope.kind === 'before' ? { sql: `item.received_on < ?`, bindings: [scope.before] } : undefined
};

/** What a decision on a scope means, as conditions on items. */
export function selection(mailboxId: number, line: Decided, paused: Paused): Selection {
	const given = reasons(mailboxId, line, paused);
	if (given.length === 0)
		return { within: all(reach(mailboxId, line.scope)), chosen: plain('1'), reason: plain('NULL') };
	return {
		within: all(reach(mailboxId, line.scope)),
		chosen: all(given.map(({ name, left }) => CHOSEN[name]?.(line) ?? negated(left))),
		reason: {
			sql: `CASE ${given.map(({ name, left }) => `WHEN ${left.sql} THEN ${name}`).join(' ')} END`,
			bindings: given.flatMap(({ left }) => left.bindings)
		}
	};
}

interface Counted {
	reason: LeftReason | null;
	messages: number;
	bytes: number;
	folders: number;
	oldest: string | null;
	newest: string | null;
}

/** Counts what a decision would do, without doing it. */
export async function countSelection(db: Db, mailboxId: number, line: Decided, paused: Paused): Promise<LineSums> {
	const { within, reason } = selection(mailboxId, line, paused);
	const counted = await rows<Counted>(
		db,
		`SELECT ${reason.sql} AS reason, count(*) AS messages, sum(bytes) AS bytes, count(DISTINCT folder_id) AS folders,
			min(received_on) AS oldest, max(received_on) AS newest
		 FROM item WHERE ${within.sql} GROUP BY 1 ORDER BY 2 DESC`,
		[...reason.bindings, ...within.bindings]
	);
	const chosen = counted.find((one) => one.reason === null);
	const elsewhere = endsItems(line.decision) && chosen ? await countElsewhere(db, mailboxId, line, paused) : 0;
	return {
		messages: chosen?.messages ?? 0,
		bytes: chosen?.bytes ?? 0,
		folders: chosen?.folders ?? 0,
		oldest: chosen?.oldest ?? undefined,
		newest: chosen?.newest ?? undefined,
		left: counted.flatMap(({ reason, messages }) => (reason === null ? [] : [{ reason, messages }])),
		elsewhere
	};
}

async function countElsewhere(db: Db, mailboxId: number, line: Decided, paused: Paused): Promise<number> {
	const { within, chosen } = selection(mailboxId, line, paused);
	const found = await rows<{ n: number }>(
		db,
		`SELECT count(*) AS n FROM item WHERE ${within.sql} AND ${chosen.sql} AND EXISTS (
			SELECT 1 FROM item other WHERE other.message_id = item.message_id AND other.id <> item.id
				AND other.state IN ('live', 'archived'))`,
		[...within.bindings, ...chosen.bindings]
	);
	return found[0]?.n ?? 0;
}

/** What a decision would do in one folder. */
export interface FolderSums {
	path: string;
	messages: number;
	bytes: number;
	oldest: string | null;
	newest: string | null;
}

/** The same counts, folder by folder. */
export async function countByFolder(db: Db, mailboxId: number, line: Decided, paused: Paused): Promise<FolderSums[]> {
	const { within, chosen } = selection(mailboxId, line, paused);
	return rows<FolderSums>(
		db,
		`SELECT folder.path, chosen.messages, chosen.bytes, chosen.oldest, chosen.newest FROM (
			SELECT folder_id, count(*) AS messages, sum(bytes) AS bytes, min(received_on) AS oldest, max(received_on) AS newest
			FROM item WHERE ${within.sql} AND ${chosen.sql} GROUP BY folder_id
		 ) chosen JOIN folder ON folder.id = chosen.folder_id ORDER BY folder.path`,
		[...within.bindings, ...chosen.bindings]
	);
}
