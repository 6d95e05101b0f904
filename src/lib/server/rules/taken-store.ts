import type { CalendarDate } from '../../../core/calendar.ts';
import { cutoffOf, type Group, readRuleQuery, type Rule, type Stay } from '../../../core/rules/rule.ts';
import { readPeriod } from '../../../core/retention/periods.ts';
import { asksFor, type Query } from '../../../core/search/query.ts';
import { all, type Condition, empty, join, not, type Sql, sql } from '../database/index.ts';
import { condition } from '../mail/index.ts';

/* Which mail standing decisions take, as SQL. */

const GROUP_KEYS: Record<Group, Sql> = {
	// mail without a thread or list is its own group
	thread: sql`ifnull(item.thread_id, -item.id)`,
	sender: sql`item.correspondent_id`,
	list: sql`ifnull(item.list_id, -item.id)`
};

/** The order of mail in which the newest stay. */
export const NEWEST_FIRST = sql`item.received_on DESC, item.received_at DESC, item.id DESC`;
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

/** A standing decision that a statement is made of. */
export type RuleOfMailbox = Rule & { id: number; mailboxId: number };

/** What one statement for several standing decisions has in common; their values are columns of it. */
export function shapeOf({ mailboxId, query, stay, then, options, since, until }: RuleOfMailbox, today: CalendarDate) {
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
export function taken(
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

/* The day on which mail is older than that, as modifiers of SQLite's dates: the day after its age is reached. */
function ageOf({ olderThan = '' }: Stay): [string, string, string] {
	const { years = 0, months = 0, days = 0 } = readPeriod(olderThan) ?? {};
	return [`+${years} years`, `+${months} months`, `+${days + 1} days`];
}
