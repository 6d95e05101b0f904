import type { CalendarDate } from '../../../core/calendar.ts';
import { type Protection } from '../../../core/docket/decision.ts';
import { type Decision, DECISIONS, ruleOf } from '../../../core/docket/decisions.ts';
import type { LeftReason } from '../../../core/docket/left.ts';
import { RESTS_ON_ANOTHER } from '../../../core/likeness/proposals.ts';
import { asksForDates, readQuery } from '../../../core/search/query.ts';
import { all, type Condition, type Db, inList, join, literal, not, rows, type Sql, sql } from '../database/index.ts';
import { condition, hasEnded, HELD, inLots, IS_ON_SERVER, IS_RECORD, lotKey, NEVER_ARCHIVED } from '../mail/index.ts';
import { dueCondition, inFolders, isPaused, isProposable, type Paused } from '../standing/index.ts';
import { workOf } from './decision-work.ts';
import type { Decided, LineSums, LotsScope, Scope } from './scope.ts';

/** Divides the items in a scope into those that the decision changes and those left, by reason. */
export interface Selection {
	within: Condition;
	selected: Condition;
	/** SQL of the reason for which an item is left, null if it is not. */
	reason: Sql;
}

const UNDOUBTED = sql`item.date_in_doubt = 0 AND item.received_on IS NOT NULL`;

/** The items of a sheet: its filter, and the selected lots. */
function sheetCondition(
	{ by, keys, withoutKeys, query, folderIds, on, without }: LotsScope,
	today: CalendarDate
): Condition[] {
	return [
		...(folderIds ? [sql`item.folder_id IN ${inList(folderIds)}`] : []),
		...(query ? [condition(readQuery(query, { today }))] : []),
		...(keys ? [inLots(by, keys, on)] : []),
		...(withoutKeys.length > 0 ? [not(sql`ifnull(${inLots(by, withoutKeys, on)}, 0)`)] : []),
		...(without.length > 0 ? [sql`NOT item.id IN ${inList(without)}`] : [])
	];
}

function reach(mailboxId: number, scope: Scope, paused: Paused): Condition[] {
	const mailbox = sql`item.mailbox_id = ${mailboxId}`;
	switch (scope.kind) {
		case 'archived':
			return [
				mailbox,
				sql`item.state = 'archived'`,
				...(scope.folderIds ? [sql`item.folder_id IN ${inList(scope.folderIds)}`] : []),
				...(scope.year === undefined
					? []
					: [
							sql`item.received_on >= ${`${scope.year}-01-01`} AND item.received_on < ${`${Number(scope.year) + 1}-01-01`}
								AND item.date_in_doubt = 0`
						])
			];
		case 'due':
			return [
				mailbox,
				dueCondition({ ...scope, actions: [scope.action] }),
				...(scope.state ? [sql`item.state = ${literal(scope.state)}`] : []),
				...(scope.ids ? [sql`item.id IN ${inList(scope.ids)}`] : [])
			];
		case 'lists':
			return [sql`0`];
		case 'items':
		case 'again':
			return [sql`item.id IN ${inList(scope.ids)}`, mailbox];
		case 'rule':
			return [
				mailbox,
				sql`item.id IN (SELECT item_id FROM rule_item WHERE run_id = ${scope.runId} AND rule_id = ${scope.ruleId})`
			];
		case 'query':
			return [mailbox, condition(readQuery(scope.query, { today: paused.on }))];
		case 'bin':
			return [
				mailbox,
				sql`item.state = 'binned'`,
				...(scope.binnedBy ? [sql`item.binned_on <= ${scope.binnedBy}`] : [])
			];
		case 'proposal':
			return [
				mailbox,
				sql`item.id IN (SELECT item_id FROM proposal_item WHERE mailbox_id = ${mailboxId} AND kind = ${scope.proposal})`,
				isProposable(paused),
				inFolders(scope.folderIds),
				...(scope.ids ? [sql`item.id IN ${inList(scope.ids)}`] : [])
			];
		case 'lots':
			// a sheet shows live mail: other items are outside its scope, not left
			return [mailbox, sql`item.state = 'live'`, ...sheetCondition(scope, paused.on)];
		case 'before':
			return [
				mailbox,
				sql`item.state IN ('live', 'binned')`,
				...(scope.folderIds ? [sql`item.folder_id IN ${inList(scope.folderIds)}`] : []),
				...(scope.without ? [sql`item.folder_id NOT IN ${inList(scope.without)}`] : [])
			];
	}
}

/** The condition for an item under a protection. */
export function isProtected(by: Protection, paused: Paused): Condition {
	if (by === 'flagged') return sql`item.flagged = 1`;
	if (by === 'kept') return sql`item.kept = 1`;
	if (by === 'never-archived') return NEVER_ARCHIVED;
	return isPaused(paused);
}

/* A disposition applies to items whose period has ended by the day of the line; without a day, to none. */
const hasNotEnded = (scope: Scope): Condition =>
	scope.kind === 'due' ? sql`NOT ifnull(${hasEnded(scope.by)}, 0)` : sql`1`;

/* Restored mail is not archived by the next scheduled run: people have some weeks to look at it, or to keep it. */
const RESTORED_DAYS = 30;
const RESTORING = DECISIONS.filter(
	(decision) => ruleOf(decision).to === 'live' && ruleOf(decision).from.includes('archived')
);
const wasRestored = (by: CalendarDate): Condition =>
	sql`ifnull(item.docket_id IN (SELECT docket_id FROM docket_line JOIN docket ON docket.id = docket_id
		WHERE decision IN ${inList(RESTORING)} AND carried_out_at >= date(${by}, ${`-${RESTORED_DAYS} days`})), 0)`;

/* Whether an item is among the newest live ones of its lot. */
function amongNewest(mailboxId: number, scope: Scope, count: number, paused: Paused): Condition | undefined {
	if (scope.kind !== 'lots') return undefined;
	const inReach = all([...reach(mailboxId, { ...scope, without: [] }, paused), UNDOUBTED]);
	return sql`item.id IN (SELECT id FROM (SELECT item.id, row_number() OVER (PARTITION BY ${lotKey(scope.by, scope.on)}
		ORDER BY item.received_on DESC, item.received_at DESC, item.id DESC) AS place FROM item WHERE ${inReach}) WHERE place <= ${count})`;
}

/* Whether the message that repeats an item is gone. */
const isNeeded = (proposal: string): Condition =>
	sql`NOT EXISTS (SELECT 1 FROM proposal_item LEFT JOIN item better ON better.id = better_item_id
		WHERE proposal_item.mailbox_id = item.mailbox_id AND kind = ${proposal} AND item_id = item.id
			AND (better_item_id IS NULL OR better.state IN ('live', 'archived')))`;

/** A reason to leave an item, with its condition. */
interface Reason {
	/** SQL of its name. */
	name: Sql;
	left: Condition;
	/** The opposite condition, in a form that an index can search. */
	selected?: Condition;
}

const because = (reason: LeftReason, left: Condition, selected?: Condition): Reason => ({
	name: literal(reason),
	left,
	...(selected ? { selected } : {})
});

/* Nothing that its owner was asked to review goes before the day. */
const isInReview = (on: CalendarDate) =>
	sql`item.id IN (SELECT item_id FROM review_item JOIN review ON review.id = review_id WHERE ended_on IS NULL AND until > ${on})`;

/* In the given order. */
function reasons(mailboxId: number, line: Decided, paused: Paused): Reason[] {
	const { decision, options, scope } = line;
	if (scope.kind === 'again') return [];
	const rule = ruleOf(decision);
	const states = rule.from.map(literal);
	const [state, ...others] = states;
	const dated =
		scope.kind === 'before' ||
		options.keepNewest !== undefined ||
		((scope.kind === 'query' || scope.kind === 'lots') && asksForDates(readQuery(scope.query, { today: paused.on })));
	const newest = options.keepNewest ? amongNewest(mailboxId, scope, options.keepNewest, paused) : undefined;
	const work = workOf(decision);
	const same = work.about === 'messages' ? work.already?.(options) : undefined;
	return [
		{
			name: sql`item.state`,
			left: state ? sql`item.state NOT IN (${join(states)})` : sql`1`,
			selected: !state
				? sql`0`
				: others.length === 0
					? sql`item.state = ${state}`
					: sql`item.state IN (${join(states)})`
		},
		...(rule.isBarredByHold ? [because('held', HELD)] : []),
		...(rule.isBarredForRecords(options) ? [because('record', IS_RECORD)] : []),
		...(rule.sparesRestored && scope.kind === 'due' ? [because('had-back', wasRestored(scope.by))] : []),
		...(scope.kind === 'due' && rule.to !== undefined ? [because('in-review', isInReview(paused.on))] : []),
		...(rule.needsEndedPeriod ? [because('not-due', hasNotEnded(scope))] : []),
		...(dated ? [because('date-in-doubt', sql`(item.date_in_doubt = 1 OR item.received_on IS NULL)`, UNDOUBTED)] : []),
		...(scope.kind === 'before'
			? [because('newer', sql`item.received_on >= ${scope.before}`, sql`item.received_on < ${scope.before}`)]
			: []),
		...rule.protections.filter((name) => name !== options.only).map((name) => because(name, isProtected(name, paused))),
		...(options.leavesFlagged ? [because('flagged', isProtected('flagged', paused))] : []),
		...(options.only ? [because('already', not(isProtected(options.only, paused)))] : []),
		...(same ? [because('already', same)] : []),
		...(newest ? [because('newest', newest)] : []),
		...(scope.kind === 'items' && scope.missingOnServer ? [because('on-server', IS_ON_SERVER)] : []),
		...(scope.kind === 'proposal' && RESTS_ON_ANOTHER.includes(scope.proposal) && rule.takesAway
			? [because('needed', isNeeded(scope.proposal))]
			: [])
	];
}

/** The items of a decision on a scope, as conditions. */
export function selection(mailboxId: number, line: Decided, paused: Paused): Selection {
	const given = reasons(mailboxId, line, paused);
	const within = all(reach(mailboxId, line.scope, paused));
	if (given.length === 0) return { within, selected: sql`1`, reason: sql`NULL` };
	return {
		within,
		selected: all(given.map(({ left, selected }) => selected ?? not(left))),
		reason: sql`CASE ${join(
			given.map(({ name, left }) => sql`WHEN ${left} THEN ${name}`),
			' '
		)} END`
	};
}

/* Lines whose items are found by one statement. */
interface Bundle extends Selection {
	decision: Decision;
	/** All that lies in the scopes, as a condition on `item` alone. */
	reach: Condition;
	from: Sql;
	/** SQL of the line's key. */
	line: Sql;
}

/* What standing decisions gathered is found together where they decide alike; any other line by itself. */
function bundles<L extends Decided>(
	mailboxId: number,
	lines: readonly L[],
	{ paused, keyOf }: { paused: Paused; keyOf: (line: L, at: number) => number }
): Bundle[] {
	const alike = new Map<string, { first: L; runId: number; keys: { line: number; rule: number }[] }>();
	const found: Bundle[] = [];
	for (const [at, line] of lines.entries()) {
		const { decision, options, scope } = line;
		if (scope.kind !== 'rule') {
			const selected = selection(mailboxId, line, paused);
			found.push({ ...selected, decision, reach: selected.within, from: sql`item`, line: sql`${keyOf(line, at)}` });
			continue;
		}
		const same = JSON.stringify([decision, options, scope.runId]);
		const bundle = alike.get(same) ?? { first: line, runId: scope.runId, keys: [] };
		bundle.keys.push({ line: keyOf(line, at), rule: scope.ruleId });
		alike.set(same, bundle);
	}
	for (const { first, runId, keys } of alike.values())
		found.push({
			...selection(mailboxId, first, paused),
			decision: first.decision,
			within: sql`item.mailbox_id = ${mailboxId}`,
			reach: sql`item.mailbox_id = ${mailboxId} AND item.id IN (SELECT item_id FROM rule_item WHERE run_id = ${runId}
				AND rule_id IN ${inList(keys.map(({ rule }) => rule))})`,
			from: sql`(SELECT value ->> 'line' AS line, value ->> 'rule' AS rule FROM json_each(${JSON.stringify(keys)})) one
				CROSS JOIN rule_item ON rule_item.rule_id = one.rule AND run_id = ${runId} CROSS JOIN item ON item.id = rule_item.item_id`,
			line: sql`one.line`
		});
	return found;
}

/** All that lies in the scopes of lines, as conditions. */
export function reachOf(mailboxId: number, lines: readonly Decided[], paused: Paused): Condition[] {
	return bundles(mailboxId, lines, { paused, keyOf: (_, at) => at }).map(({ reach: within }) => within);
}

/** The items of each line, as statements that select `line_id` and `item_id`. */
export function selectedItems(mailboxId: number, lines: readonly (Decided & { id: number })[], paused: Paused): Sql[] {
	return bundles(mailboxId, lines, { paused, keyOf: ({ id }) => id }).map(
		({ from, line, within, selected }) =>
			sql`SELECT ${line} AS line_id, item.id AS item_id FROM ${from} WHERE ${within} AND ${selected} ORDER BY 1, 2`
	);
}

/** How many messages each decision would change; one that would change none is left out. */
export async function countSelected<L extends Decided>(
	db: Db,
	mailboxId: number,
	lines: readonly L[],
	paused: Paused
): Promise<Map<L, number>> {
	const counted = new Map<L, number>();
	for (const { from, line, within, selected } of bundles(mailboxId, lines, { paused, keyOf: (_, at) => at })) {
		const found = await rows<{ line: number; n: number }>(
			db,
			sql`SELECT ${line} AS line, count(*) AS n FROM ${from} WHERE ${within} AND ${selected} GROUP BY 1`
		);
		for (const { line: at, n } of found) if (n > 0) counted.set(lines[at] as L, n);
	}
	return counted;
}

interface Counted {
	line: number;
	reason: LeftReason | null;
	messages: number;
	bytes: number;
	folders: number;
	oldest: string | null;
	newest: string | null;
	flagged: number;
}

/** Counts what decisions would do, each by itself, without doing it. */
export async function countSelections<L extends Decided>(
	db: Db,
	mailboxId: number,
	lines: readonly L[],
	paused: Paused
): Promise<Map<L, LineSums>> {
	const counted: Counted[] = [];
	const elsewhere = new Map<number, number>();
	for (const bundle of bundles(mailboxId, lines, { paused, keyOf: (_, at) => at })) {
		const { from, line, within, reason } = bundle;
		const found = await rows<Counted>(
			db,
			sql`SELECT ${line} AS line, ${reason} AS reason, count(*) AS messages, sum(bytes) AS bytes, count(DISTINCT folder_id) AS folders,
				min(received_on) AS oldest, max(received_on) AS newest, sum(item.flagged) AS flagged
			 FROM ${from} WHERE ${within} GROUP BY 1, 2 ORDER BY 3 DESC`
		);
		counted.push(...found);
		if (ruleOf(bundle.decision).takesAway && found.some((one) => one.reason === null))
			for (const { line: at, n } of await countElsewhere(db, bundle)) elsewhere.set(at, n);
	}
	const byLine = new Map<number, Counted[]>();
	for (const one of counted) byLine.set(one.line, [...(byLine.get(one.line) ?? []), one]);
	return new Map(
		lines.map((line, at): [L, LineSums] => {
			const ofLine = byLine.get(at) ?? [];
			const selected = ofLine.find((one) => one.reason === null);
			const sums: LineSums = {
				messages: selected?.messages ?? 0,
				bytes: selected?.bytes ?? 0,
				folders: selected?.folders ?? 0,
				oldest: selected?.oldest ?? undefined,
				newest: selected?.newest ?? undefined,
				flagged: selected?.flagged ?? 0,
				left: ofLine.flatMap(({ reason, messages }) => (reason === null ? [] : [{ reason, messages }])),
				elsewhere: elsewhere.get(at) ?? 0
			};
			return [line, sums];
		})
	);
}

function countElsewhere(db: Db, { from, line, within, selected }: Bundle): Promise<{ line: number; n: number }[]> {
	return rows(
		db,
		sql`SELECT ${line} AS line, count(*) AS n FROM ${from} WHERE ${within} AND ${selected} AND EXISTS (
			SELECT 1 FROM item other WHERE other.message_id = item.message_id AND other.id <> item.id
				AND other.state IN ('live', 'archived')) GROUP BY 1`
	);
}

/** The counts of a decision for one folder. */
export interface FolderSums {
	id: number;
	path: string;
	/** Whether it is a folder of the archive. */
	isArchive: number;
	messages: number;
	bytes: number;
	oldest: string | null;
	newest: string | null;
}

/** The same counts by folder. */
export async function countByFolder(db: Db, mailboxId: number, line: Decided, paused: Paused): Promise<FolderSums[]> {
	const { within, selected } = selection(mailboxId, line, paused);
	return rows<FolderSums>(
		db,
		sql`SELECT folder.id, folder.path, folder.tree = 'archive' AS isArchive, selected.messages, selected.bytes, selected.oldest, selected.newest FROM (
			SELECT folder_id, count(*) AS messages, sum(bytes) AS bytes, min(received_on) AS oldest, max(received_on) AS newest
			FROM item WHERE ${within} AND ${selected} GROUP BY folder_id
		 ) selected JOIN folder ON folder.id = selected.folder_id ORDER BY folder.path`
	);
}
