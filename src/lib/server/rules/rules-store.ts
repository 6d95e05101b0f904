import type { CalendarDate } from '../../../core/calendar.ts';
import type { Decision } from '../../../core/docket/decisions.ts';
import type { Rule, RuleOptions, Stay, Why } from '../../../core/rules/rule.ts';
import { change, type Condition, type Db, empty, idOf, row, rows, sql } from '../database/index.ts';
import { shapeOf, taken } from './taken-store.ts';

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

const LIVE: Condition = sql`item.state = 'live'`;

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
