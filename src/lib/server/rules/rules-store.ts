import type { CalendarDate } from '../../../core/calendar.ts';
import type { Decision } from '../../../core/docket/decisions.ts';
import {
	cutoffOf,
	readRuleQuery,
	type Group,
	type Rule,
	type RuleOptions,
	type Stay,
	type Why
} from '../../../core/rules/rule.ts';
import { readPeriod } from '../../../core/retention/periods.ts';
import { asksFor, type Query } from '../../../core/search/query.ts';
import {
	all,
	change,
	type Condition,
	type Db,
	empty,
	idOf,
	inList,
	join,
	not,
	row,
	rows,
	type Sql,
	sql
} from '../database/index.ts';
import { condition } from '../mail/index.ts';

/* ---- the standing decisions ---- */

/** A standing decision of a mailbox. */
export interface StoredRule extends Rule {
	id: number;
	mailboxId: number;
	/** The order in which they count, from 1. */
	position: number;
	isOn: boolean;
	madeAt: string;
	madeBy: string;
	/** What a closed thread is called: it stands in its mail alone, as the name goes into the ledger. */
	threadSubject: string | undefined;
}

const COLUMNS = {
	id: 'id',
	mailboxId: 'mailbox_id',
	position: 'position',
	name: 'name',
	query: 'query',
	stay: 'stay',
	then: 'decision',
	options: 'options',
	since: 'since',
	until: 'until',
	isOn: 'is_on',
	madeAt: 'made_at',
	madeBy: 'made_by'
} as const;

/** The standing decisions of a mailbox, or of all, in the order in which they count. */
export async function listStoredRules(db: Db, mailboxId?: number): Promise<StoredRule[]> {
	const found = await db('rule')
		.whereNull('removed_at')
		.where(mailboxId === undefined ? {} : { mailbox_id: mailboxId })
		.orderBy(['mailbox_id', 'position'])
		.select(COLUMNS);
	const subjects = new Map(
		(
			await rows<{ id: number; subject: string }>(
				db,
				sql`SELECT rule.id, subject FROM rule JOIN item ON item.id = thread_item_id AND item.state <> 'destroyed'
					JOIN message ON message.id = item.message_id WHERE rule.removed_at IS NULL`
			)
		).map(({ id, subject }) => [id, subject])
	);
	return found.map(({ stay, options, since, until, isOn, then, ...rule }) => ({
		...rule,
		threadSubject: subjects.get(rule.id),
		then: then as Decision,
		stay: JSON.parse(stay) as Stay,
		options: JSON.parse(options) as RuleOptions,
		since: since ?? undefined,
		until: until ?? undefined,
		isOn: isOn === 1
	}));
}

/** Stores a standing decision as the last of its mailbox. @returns its number */
export async function addStoredRule(
	db: Db,
	mailboxId: number,
	{ name, query, stay, then, options, since, until }: Rule,
	{ at, by, threadItemId }: { at: Date; by: string; threadItemId?: number | undefined }
): Promise<number> {
	const last = await row<{ n: number }>(
		db,
		sql`SELECT ifnull(max(position), 0) AS n FROM rule WHERE mailbox_id = ${mailboxId} AND removed_at IS NULL`
	);
	return idOf(
		db('rule').insert({
			mailbox_id: mailboxId,
			position: (last?.n ?? 0) + 1,
			name: name.trim(),
			query: query.trim(),
			stay: JSON.stringify(stay),
			decision: then,
			options: JSON.stringify(options),
			since: since ?? null,
			until: until ?? null,
			is_on: 1,
			made_at: at.toISOString(),
			made_by: by,
			thread_item_id: threadItemId ?? null
		})
	);
}

/** Has closed threads keep their mail: threads that grow together change their numbers. */
export async function followThreads(db: Db, mailboxId: number): Promise<void> {
	await change(
		db,
		sql`UPDATE rule SET query = 'thread:' || item.thread_id FROM item
		 WHERE rule.mailbox_id = ${mailboxId} AND rule.removed_at IS NULL AND item.id = rule.thread_item_id
			AND item.thread_id IS NOT NULL AND query <> 'thread:' || item.thread_id`
	);
}

/** Switches a standing decision on or off. */
export async function putRuleOn(db: Db, id: number, isOn: boolean): Promise<void> {
	await db('rule')
		.where({ id })
		.update({ is_on: Number(isOn) });
}

/** Removes a standing decision; what it did stays known. */
export async function removeStoredRule(db: Db, id: number, at: string): Promise<void> {
	await db('rule').where({ id }).update({ removed_at: at, is_on: 0 });
}

/** Sets the order in which the standing decisions of a mailbox count. */
export async function putRuleOrder(db: Db, ids: readonly number[]): Promise<void> {
	await change(
		db,
		sql`UPDATE rule SET position = place.key + 1 FROM json_each(${JSON.stringify(ids)}) place WHERE rule.id = place.value`
	);
}

/* ---- what they gather ---- */

const GROUP_KEYS: Record<Group, Sql> = {
	// mail without a thread or list is its own group
	thread: sql`ifnull(item.thread_id, -item.id)`,
	sender: sql`item.correspondent_id`,
	list: sql`ifnull(item.list_id, -item.id)`
};

const NEWEST_FIRST = sql`item.received_on DESC, item.received_at DESC, item.id DESC`;
const IS_DATED = sql`item.date_in_doubt = 0 AND item.received_on IS NOT NULL`;

/* What a standing decision's whole search is, where it names one sender, organisation or list. */
interface Key {
	kind: 'address' | 'organisation' | 'list';
	text: string;
}

/* Mail by such a name, so that an index finds it: however many decisions are gathered at once, each reads its own mail. */
const MAIL_BY: Record<Key['kind'], Sql> = {
	address: sql`CROSS JOIN correspondent ON correspondent.address = rule.name
		CROSS JOIN item ON item.organisation_id = correspondent.organisation_id AND item.correspondent_id = correspondent.id`,
	organisation: sql`CROSS JOIN organisation ON organisation.domain = rule.name CROSS JOIN item ON item.organisation_id = organisation.id`,
	list: sql`CROSS JOIN list ON list.identifier = rule.name CROSS JOIN item ON item.list_id = list.id`
};

function keyOf(part: Query): Key | undefined {
	if ((part.kind === 'organisation' || part.kind === 'address') && !part.begun && part.text !== 'none')
		return { kind: part.kind === 'address' ? 'address' : 'organisation', text: part.text.toLowerCase() };
	if (part.kind === 'list' && part.text.startsWith('='))
		return { kind: 'list', text: part.text.slice(1).toLowerCase() };
	return undefined;
}

/* The same of a part of a longer search; it only repeats what the search says. */
function driver({ kind, text }: Key): Condition {
	switch (kind) {
		case 'organisation':
			return sql`item.organisation_id IN (SELECT id FROM organisation WHERE domain = ${text})`;
		case 'address':
			return sql`item.organisation_id IN (SELECT organisation_id FROM correspondent WHERE address = ${text})`;
		case 'list':
			return sql`item.list_id IN (SELECT id FROM list WHERE identifier = ${text})`;
	}
}

function drivers(read: Query): Condition[] {
	return (read.kind === 'and' ? read.parts : [read]).flatMap((part) => {
		const key = keyOf(part);
		return key ? [driver(key)] : [];
	});
}

/* Mail that somebody here sent, or has not sent yet. */
const WAS_SENT: Condition = sql`ifnull(item.origin_folder_id, item.folder_id) IN (SELECT id FROM folder WHERE role IN ('sent', 'drafts'))`;

/** Mail that is trusted: of a trusted sender or list. */
const IS_TRUSTED: Condition = sql`(item.correspondent_id IN (SELECT correspondent.id FROM correspondent JOIN sender_mark ON verdict = 'trust' AND (
		(kind = 'address' AND address = value) OR (kind = 'domain' AND (address LIKE '%@' || value OR address LIKE '%.' || value))
		OR (kind = 'tld' AND address LIKE '%.' || value)))
	OR ifnull(item.list_id IN (SELECT list.id FROM list JOIN sender_mark ON verdict = 'trust' AND kind = 'list' AND identifier = value), 0))`;

type RuleOfMailbox = Rule & { id: number; mailboxId: number };

/* What one statement for several standing decisions has in common; their values are columns of it. */
function shapeOf({ mailboxId, query, stay, then, options, since, until }: RuleOfMailbox, today: CalendarDate) {
	const read = readRuleQuery({ query }, today);
	const key = keyOf(read);
	return {
		mailboxId,
		/* Undefined: one statement for this decision alone. */
		kind: key?.kind,
		query: key ? undefined : query,
		newest: stay.newest !== undefined,
		per: stay.per,
		age: stay.olderThan !== undefined,
		weight: stay.largerInAll !== undefined,
		times: since !== undefined || until !== undefined,
		junk: then === 'tag' && options.tag?.toLowerCase() === '$junk'
	};
}

/**
 * The mail that standing decisions of one shape take by a day, as a SELECT of `rule_id`, `id`, `why`, `gone_on`, `bytes`
 * and `state`. It would have gone on the day on which it came, got too old, or had so many newer ones; of weights only
 * today is known.
 *
 * @param within the mail that is looked at
 * @param isDated whether only mail with a certain date is meant, whatever the decisions say
 */
function taken(
	[first, ...others]: readonly [RuleOfMailbox, ...RuleOfMailbox[]],
	{ today, within, isDated = false }: { today: CalendarDate; within: Condition; isDated?: boolean }
): Sql {
	const { mailboxId, kind, newest, per, age, weight, times, junk } = shapeOf(first, today);
	const read = readRuleQuery(first, today);
	const values = [first, ...others].map(({ id, query, stay, since, until }) => {
		const [years, months, days] = ageOf(stay);
		return {
			id,
			name: kind ? keyOf(readRuleQuery({ query }, today))?.text : undefined,
			newest: stay.newest,
			weight: stay.largerInAll,
			cutoff: cutoffOf(stay, today),
			years,
			months,
			days,
			since,
			until
		};
	});
	const limits = newest || weight || age;
	const matching = all([
		sql`item.mailbox_id = ${mailboxId}`,
		within,
		// what is still being written is nobody's to clear; sent mail is meant only where a folder is named
		sql`item.draft = 0`,
		...(asksFor(read, 'folder') ? [] : [not(WAS_SENT)]),
		...(isDated || limits || times ? [IS_DATED] : []),
		...(kind ? [] : [...drivers(read), condition(read)]),
		...(junk ? [not(IS_TRUSTED)] : [])
	]);
	const why = !limits
		? sql`'all'`
		: sql`CASE ${newest ? sql`WHEN place > newest THEN 'newest'` : empty}
				${age ? sql`WHEN received_on < cutoff THEN 'older'` : empty}
				${weight ? sql`WHEN total > weight THEN 'heavier'` : empty} END`;
	const goneOn = !limits
		? sql`received_on`
		: sql`min(${today}, ${newest ? sql`CASE WHEN place > newest THEN pushed_on ELSE '9999' END` : sql`'9999'`},
				${age ? sql`date(received_on, years, months, days)` : sql`'9999'`})`;
	// all that is read for a window is sorted with it: of one decision nothing that it does not need
	const each = [...(others.length > 0 ? [sql`rule.id`] : []), ...(per ? [GROUP_KEYS[per]] : [])];
	const windowOf = (keys: readonly Sql[]) =>
		sql`${keys.length > 0 ? sql`PARTITION BY ${join([...keys])}` : empty} ORDER BY ${NEWEST_FIRST}`;
	const group = windowOf(each);
	return sql`SELECT rule_id, id, ${why} AS why, ${goneOn} AS gone_on, bytes, state FROM (
			SELECT rule.id AS rule_id, item.id, item.received_on, item.bytes, item.state
				${newest ? sql`, rule.newest` : empty} ${weight ? sql`, rule.weight` : empty}
				${age ? sql`, rule.cutoff, rule.years, rule.months, rule.days` : empty} ${times ? sql`, rule.since, rule.until` : empty}
				${newest ? sql`, row_number() OVER (${group}) AS place, lag(item.received_on, rule.newest) OVER (${group}) AS pushed_on` : empty}
				${weight ? sql`, sum(item.bytes) OVER (${windowOf(others.length > 0 ? [sql`rule.id`] : [])} ROWS UNBOUNDED PRECEDING) AS total` : empty}
			FROM (SELECT value ->> 'id' AS id, value ->> 'name' AS name, value ->> 'newest' AS newest, value ->> 'weight' AS weight,
					value ->> 'cutoff' AS cutoff, value ->> 'years' AS years, value ->> 'months' AS months, value ->> 'days' AS days,
					value ->> 'since' AS since, value ->> 'until' AS until FROM json_each(${JSON.stringify(values)})) rule
				${kind ? MAIL_BY[kind] : sql`CROSS JOIN item`}
			WHERE ${matching}
		) WHERE ${why} IS NOT NULL ${times ? sql`AND ifnull(received_on >= since, 1) AND ifnull(received_on < until, 1)` : empty}`;
}

const LIVE: Condition = sql`item.state = 'live'`;

/* The day on which mail is older than that, as modifiers of SQLite's dates: the day after its age is reached. */
function ageOf({ olderThan = '' }: Stay): [string, string, string] {
	const { years = 0, months = 0, days = 0 } = readPeriod(olderThan) ?? {};
	return [`+${years} years`, `+${months} months`, `+${days + 1} days`];
}

/* Whether a docket took what was gathered for a standing decision: it may have left it, under a hold or kept. */
const WAS_CHANGED: Condition = sql`EXISTS (SELECT 1 FROM rule_run taking JOIN docket_line ON docket_line.docket_id = taking.docket_id
	JOIN docket_item ON docket_item.line_id = docket_line.id AND docket_item.item_id = rule_item.item_id
	WHERE taking.id = rule_item.run_id AND json_extract(scope, '$.ruleId') = rule_item.rule_id)`;

/** Begins a run, and forgets what earlier runs gathered of which nothing was carried out. @returns its number */
export async function beginRun(db: Db, mailboxId: number, on: CalendarDate): Promise<number> {
	await change(
		db,
		sql`DELETE FROM rule_run WHERE mailbox_id = ${mailboxId}
			AND ifnull((SELECT state FROM docket WHERE docket.id = docket_id), 'drafted') IN ('drafted', 'dropped')`
	);
	await change(
		db,
		sql`DELETE FROM rule_item WHERE rule_id IN (SELECT id FROM rule WHERE mailbox_id = ${mailboxId})
			AND run_id NOT IN (SELECT id FROM rule_run)`
	);
	// what the last docket left, held or kept, is not done: it is looked at again; each run settles the one before it
	await change(
		db,
		sql`DELETE FROM rule_item WHERE run_id = (SELECT max(id) FROM rule_run WHERE mailbox_id = ${mailboxId}) AND NOT ${WAS_CHANGED}`
	);
	return idOf(db('rule_run').insert({ mailbox_id: mailboxId, on_day: on }));
}

/**
 * Gathers the mail that standing decisions take in a run: none that one took before, and of those that change the same
 * of a message the one that comes first.
 *
 * @param rules of one mailbox
 * @param by.aspectOf what of an item a decision changes
 */
export async function gatherRules(
	db: Db,
	rules: readonly StoredRule[],
	{ runId, today, aspectOf }: { runId: number; today: CalendarDate; aspectOf: (rule: StoredRule) => string }
): Promise<void> {
	await change(db, sql`CREATE TEMP TABLE IF NOT EXISTS rule_found (rule_id INTEGER, item_id INTEGER, why TEXT)`);
	await change(db, sql`DELETE FROM temp.rule_found`);
	const shapes = new Map<string, [StoredRule, ...StoredRule[]]>();
	for (const rule of rules) {
		const shape = JSON.stringify(shapeOf(rule, today));
		const alike = shapes.get(shape);
		if (alike) alike.push(rule);
		else shapes.set(shape, [rule]);
	}
	for (const alike of shapes.values())
		await change(
			db,
			sql`INSERT INTO temp.rule_found SELECT rule_id, id, why FROM (${taken(alike, { today, within: LIVE })}) found
			 WHERE NOT EXISTS (SELECT 1 FROM rule_item WHERE rule_item.rule_id = found.rule_id AND item_id = found.id)`
		);
	const order = JSON.stringify(rules.map((rule) => ({ id: rule.id, aspect: aspectOf(rule) })));
	await change(
		db,
		sql`WITH place AS MATERIALIZED (SELECT key, value ->> 'id' AS id, value ->> 'aspect' AS aspect FROM json_each(${order}))
		 INSERT INTO rule_item (rule_id, item_id, run_id, why)
		 SELECT rule_id, item_id, ${runId}, why FROM (
			-- the row of the smallest place gives the other columns (SQLite, "Bare columns in an aggregate query")
			SELECT rule_id, item_id, why, min(place.key) FROM temp.rule_found JOIN place ON place.id = rule_id GROUP BY item_id, aspect
		 )`
	);
}

/** Notes the docket of a run. */
export async function putRunDocket(db: Db, runId: number, docketId: number): Promise<void> {
	await db('rule_run').where({ id: runId }).update({ docket_id: docketId });
}

/** The day of the last run of a mailbox. */
export async function lastRun(db: Db, mailboxId: number): Promise<CalendarDate | undefined> {
	const found = await row<{ on: string | null }>(
		db,
		sql`SELECT max(on_day) AS "on" FROM rule_run WHERE mailbox_id = ${mailboxId}`
	);
	return found?.on ?? undefined;
}

/** The lines by which standing decisions were carried out, in a time. */
export async function linesOfRule(
	db: Db,
	ruleId: number,
	{ since, until }: { since?: CalendarDate | undefined; until?: CalendarDate | undefined }
): Promise<{ docketId: number; lineId: number }[]> {
	return rows(
		db,
		sql`SELECT docket.id AS docketId, docket_line.id AS lineId FROM rule_run JOIN docket ON docket.id = rule_run.docket_id
			JOIN docket_line ON docket_line.docket_id = docket.id
		 WHERE rule_run.mailbox_id = (SELECT mailbox_id FROM rule WHERE id = ${ruleId}) AND docket.state = 'carried-out'
			AND json_extract(scope, '$.kind') = 'rule' AND json_extract(scope, '$.ruleId') = ${ruleId}
			${since === undefined ? empty : sql`AND on_day >= ${since}`} ${until === undefined ? empty : sql`AND on_day < ${until}`}
		 ORDER BY docket.id DESC`
	);
}

/** What acted on a message, the newest first. */
export async function rulesThatActed(
	db: Db,
	itemId: number
): Promise<
	{
		id: number;
		name: string;
		why: Why;
		stay: Stay;
		on: CalendarDate;
		docketId: number;
		state: string;
		then: Rule['then'];
		options: RuleOptions;
	}[]
> {
	const found = await rows<{
		id: number;
		name: string;
		why: Why;
		stay: string;
		on: string;
		docketId: number;
		state: string;
		then: Rule['then'];
		options: string;
	}>(
		db,
		sql`SELECT rule.id, rule.name, why, stay, on_day AS "on", docket_id AS docketId, docket.state, rule.decision AS "then", rule.options
		 FROM rule_item JOIN rule ON rule.id = rule_id JOIN rule_run ON rule_run.id = run_id JOIN docket ON docket.id = docket_id
		 WHERE item_id = ${itemId} AND ${WAS_CHANGED} AND docket.state IN ('carried-out', 'carrying-out', 'taking-back', 'taken-back') ORDER BY run_id DESC`
	);
	return found.map(({ stay, options, ...of }) => ({
		...of,
		stay: JSON.parse(stay) as Stay,
		options: JSON.parse(options) as RuleOptions
	}));
}

/** How many messages each standing decision of a mailbox took so far, and when last. */
export async function takenByRules(
	db: Db,
	mailboxId: number
): Promise<Map<number, { messages: number; last: CalendarDate }>> {
	const found = await rows<{ id: number; messages: number; last: CalendarDate }>(
		db,
		sql`SELECT json_extract(scope, '$.ruleId') AS id, sum(done_messages) AS messages, max(on_day) AS last FROM rule_run
			JOIN docket ON docket.id = rule_run.docket_id AND docket.state = 'carried-out'
			JOIN docket_line ON docket_line.docket_id = docket.id AND json_extract(scope, '$.kind') = 'rule'
		 WHERE rule_run.mailbox_id = ${mailboxId} GROUP BY 1`
	);
	return new Map(found.map(({ id, ...of }) => [id, of]));
}

/* ---- rehearsals ---- */

/** What a standing decision would have taken since a day. */
export interface Rehearsed {
	messages: number;
	bytes: number;
	/** Of them, what still counts against the quota. */
	freed: number;
	/** The newest of them. */
	examples: number[];
}

/* All that a standing decision would have taken until today, had it always stood. */
const everTaken = (rule: Rule & { mailboxId: number }, today: CalendarDate, within: Condition): Sql =>
	taken([{ id: 0, ...rule, since: undefined }], { today, within, isDated: true });

const NOT_DESTROYED: Condition = sql`item.state <> 'destroyed'`;

/** Gathers what a standing decision would have taken since a day, in a temporary table of this connection. */
export async function rehearse(
	db: Db,
	rule: Rule & { mailboxId: number },
	{ today, from, examples }: { today: CalendarDate; from: CalendarDate; examples: number }
): Promise<Rehearsed> {
	await change(
		db,
		sql`CREATE TEMP TABLE IF NOT EXISTS rehearsed (item_id INTEGER PRIMARY KEY, why TEXT, gone_on TEXT, bytes INTEGER, state TEXT)`
	);
	await change(db, sql`DELETE FROM temp.rehearsed`);
	await change(
		db,
		sql`INSERT INTO temp.rehearsed SELECT id, why, gone_on, bytes, state FROM (${everTaken(rule, today, NOT_DESTROYED)}) WHERE gone_on > ${from}`
	);
	const sums = await row<Omit<Rehearsed, 'examples'>>(
		db,
		sql`SELECT count(*) AS messages, ifnull(sum(bytes), 0) AS bytes, ifnull(sum(CASE state WHEN 'archived' THEN 0 ELSE bytes END), 0) AS freed FROM temp.rehearsed`
	);
	const newest = await rows<{ id: number }>(
		db,
		sql`SELECT item.id FROM temp.rehearsed JOIN item ON item.id = item_id ORDER BY ${NEWEST_FIRST} LIMIT ${examples}`
	);
	return { messages: 0, bytes: 0, freed: 0, ...sums, examples: newest.map(({ id }) => id) };
}

/** What two standing decisions share. */
export interface Shared {
	/** Messages rehearsed last that the other takes as well, and those of them that it takes first. */
	both: number;
	first: number;
	/** All that the other takes in that time. */
	others: number;
}

/**
 * What the messages rehearsed last share with another standing decision: the one that takes a message on an earlier day
 * acts, of the same day the one that comes earlier.
 */
export async function countShared(
	db: Db,
	other: StoredRule,
	{ today, from, isEarlier }: { today: CalendarDate; from: CalendarDate; isEarlier: boolean }
): Promise<Shared> {
	const found = await row<Shared>(
		db,
		sql`SELECT count(rehearsed.item_id) AS both, count(*) FILTER (WHERE other.gone_on > ${from}) AS others,
			count(*) FILTER (WHERE other.gone_on < rehearsed.gone_on OR (other.gone_on = rehearsed.gone_on AND ${isEarlier ? sql`1` : sql`0`})) AS first
		 FROM (${everTaken(other, today, NOT_DESTROYED)}) other LEFT JOIN temp.rehearsed ON rehearsed.item_id = other.id`
	);
	return found ?? { both: 0, first: 0, others: 0 };
}

/** How many of the messages rehearsed last meet a condition on `item`. */
export async function countRehearsed(db: Db, which: Condition): Promise<number> {
	const found = await row<{ n: number }>(
		db,
		sql`SELECT count(*) AS n FROM temp.rehearsed CROSS JOIN item ON item.id = item_id WHERE ${which}`
	);
	return found?.n ?? 0;
}

/** The holds over messages rehearsed last, and the retention periods that have not ended, each with its messages. */
export async function rehearsedUnder(
	db: Db,
	today: CalendarDate
): Promise<{ kind: 'hold' | 'retention'; name: string; messages: number }[]> {
	return rows(
		db,
		sql`SELECT 'hold' AS kind, hold.name, count(*) AS messages FROM temp.rehearsed CROSS JOIN hold_item ON hold_item.item_id = rehearsed.item_id
			JOIN hold ON hold.id = hold_id GROUP BY hold.id
		 UNION ALL SELECT 'retention', ifnull(code, 'a period'), count(*) FROM temp.rehearsed CROSS JOIN item ON item.id = rehearsed.item_id
			LEFT JOIN retention ON retention.id = item.retention_id LEFT JOIN series ON series.id = series_id
			WHERE item.retention_id IS NOT NULL AND ifnull(item.due_on > ${today}, 1) GROUP BY 2 ORDER BY 1, 3 DESC`
	);
}

/** The folders of items, to name them. */
export async function examplesOf(
	db: Db,
	ids: readonly number[]
): Promise<{ id: number; subject: string; from: string; on: CalendarDate | null; folder: string }[]> {
	return rows(
		db,
		sql`SELECT item.id, message.subject, message.from_address AS "from", item.received_on AS "on", folder.path AS folder FROM item
			JOIN message ON message.id = item.message_id JOIN folder ON folder.id = ifnull(item.origin_folder_id, item.folder_id)
		 WHERE item.id IN ${inList(ids)} ORDER BY ${NEWEST_FIRST}`
	);
}
