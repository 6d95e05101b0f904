import { type CalendarDate, dateAfter, showDate } from '../calendar.ts';
import type { DecisionOptions } from '../docket/decision.ts';
import { type Decision, DECISIONS, ruleOf } from '../docket/decisions.ts';
import { periodWords, readPeriod } from '../retention/periods.ts';
import { asksFor, type Query, readQuery, QueryError } from '../search/query.ts';
import { showBytes, showCount } from '../weigh/units.ts';

/** The groups of which the newest messages stay each. */
export const GROUPS = ['thread', 'sender', 'list'] as const;
export type Group = (typeof GROUPS)[number];

/** What mail may stay; nothing: none of it. */
export interface Stay {
	/** This many of the newest messages, of each group or of all. */
	newest?: number | undefined;
	per?: Group | undefined;
	/** Nothing older than that (ISO 8601 duration), counted from the day of receipt (invariant 6). */
	olderThan?: string | undefined;
	/** The newest that weigh no more than that together, in bytes. */
	largerInAll?: number | undefined;
}

/** The options that a standing decision can have. */
export type RuleOptions = Pick<DecisionOptions, 'folder' | 'tag' | 'leavesFlagged'>;

/** A standing decision: what mail may stay, and what happens to the rest. */
export interface Rule {
	name: string;
	/** The mail that it is about, as a search. */
	query: string;
	stay: Stay;
	then: Decision;
	options: RuleOptions;
	/** Only mail received from this day on, and up to that one. */
	since?: CalendarDate | undefined;
	until?: CalendarDate | undefined;
}

/** The decisions that may stand; none of them destroys. */
export const STANDING_DECISIONS: readonly Decision[] = DECISIONS.filter(
	(decision) => ruleOf(decision).standing !== undefined
);

/** Why a message goes: it is beyond the newest, too old, too heavy with the newer ones, or all of them go. */
export type Why = 'all' | 'newest' | 'older' | 'heavier';

const LONGEST_NAME = 120;
const MOST_NEWEST = 1_000_000;

/** The search of a standing decision, on a day by which a sender's own date of expiry may have passed. @throws QueryError */
export function readRuleQuery({ query }: Pick<Rule, 'query'>, today: CalendarDate = '9999-12-31'): Query {
	const read = readQuery(query, { today });
	if (asksFor(read, 'paused'))
		throw new QueryError(
			'"paused" changes from day to day and cannot be used here; in quotation marks it is the word',
			0
		);
	return read;
}

/** What is wrong with a standing decision, as a sentence without its full stop; undefined: nothing. */
export function wrongRule({ name, query, stay, then, options, since, until }: Rule): string | undefined {
	if (name.trim() === '' || name.length > LONGEST_NAME)
		return `A standing decision needs a name of up to ${LONGEST_NAME} letters`;
	if (query.trim() === '') return 'Say which mail it is about: all mail is no standing decision';
	try {
		readRuleQuery({ query });
	} catch (error) {
		if (error instanceof QueryError) return error.message;
		throw error;
	}
	if (!STANDING_DECISIONS.includes(then)) return `"${then}" is nothing that can stand: it would act by itself for good`;
	if ((then === 'move' || then === 'tag' || then === 'untag') && !(options.folder ?? options.tag)?.trim())
		return then === 'move' ? 'Name the folder to move to' : 'Name the tag';
	const { newest, per, olderThan, largerInAll } = stay;
	if (newest !== undefined && (!Number.isInteger(newest) || newest < 1 || newest > MOST_NEWEST))
		return 'The number of the newest that stay is a whole number from 1';
	if (per !== undefined && newest === undefined) return 'Say how many of the newest of each stay';
	if (olderThan !== undefined && !readPeriod(olderThan))
		return `An age is written like P10D, P6M or P2Y, not "${olderThan}"`;
	if (largerInAll !== undefined && (!Number.isSafeInteger(largerInAll) || largerInAll < 1))
		return 'A weight is a size of at least one byte';
	if (since !== undefined && until !== undefined && until <= since) return 'It ends before it begins';
	return undefined;
}

/** The day before which mail is too old; undefined: no age is set. */
export function cutoffOf({ olderThan }: Stay, today: CalendarDate): CalendarDate | undefined {
	const period = olderThan === undefined ? undefined : readPeriod(olderThan);
	if (!period) return undefined;
	return dateAfter(today, { years: -period.years, months: -period.months, days: -period.days });
}

const EACH: Record<Group, string> = { thread: 'of each thread', sender: 'of each sender', list: 'of each list' };
const ageWords = (text: string) => {
	const period = readPeriod(text);
	return period ? periodWords(period) : text;
};

/** What happens to the rest: "archived into Timetables". */
export function thenWords({ then, options }: Pick<Rule, 'then' | 'options'>): string {
	const { standing = () => then } = ruleOf(then);
	return standing(options);
}

/**
 * A standing decision as a sentence: "The newest 3 messages of each list found by “from:harbour” stay, unless they are
 * older than 30 days; the rest is archived."
 */
export function ruleSentence(rule: Rule): string {
	const { query, stay, since, until, options } = rule;
	const from = since ? ` received from ${showDate(since)}` : '';
	const to = until ? `${from ? '' : ' received'} before ${showDate(until)}` : '';
	const which = `found by “${query.trim()}”${from}${to}`;
	const flagged = options.leavesFlagged ? ' Flagged mail stays.' : '';
	const age = stay.olderThan === undefined ? [] : [`older than ${ageWords(stay.olderThan)}`];
	const together = stay.largerInAll === undefined ? [] : [`heavier than ${showBytes(stay.largerInAll)} together`];
	if (stay.newest === undefined) {
		const once = [
			...age.map((limit) => `it is ${limit}`),
			...together.map((limit) => `it and newer mail are ${limit}`)
		].join(', or ');
		return `Mail ${which} is ${thenWords(rule)}${once && ` once ${once}`}.${flagged}`;
	}
	const isOne = stay.newest === 1;
	const newest = `The newest ${isOne ? 'message' : `${showCount(stay.newest)} messages`}${stay.per ? ` ${EACH[stay.per]}` : ''}`;
	const limits = [...age, ...together].join(' or ');
	const unless = limits && `, unless ${isOne ? 'it is' : 'they are'} ${limits}`;
	return `${newest} ${which} ${isOne ? 'stays' : 'stay'}${unless}; the rest is ${thenWords(rule)}.${flagged}`;
}

/** Why a message went, in words. */
export function whyWords(why: Why, { newest, per, olderThan, largerInAll }: Stay): string {
	switch (why) {
		case 'newest':
			return `${showCount(newest ?? 0)} newer ${newest === 1 ? 'one stays' : 'ones stay'}${per ? ` ${EACH[per]}` : ''}`;
		case 'older':
			return `it was older than ${ageWords(olderThan ?? '')}`;
		case 'heavier':
			return `it and the newer ones weighed more than ${showBytes(largerInAll ?? 0)}`;
		case 'all':
			return 'none of this mail stays';
	}
}
