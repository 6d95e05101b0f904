import { type CalendarDate, monthsBefore } from '../../../core/calendar.ts';
import { ruleOf } from '../../../core/docket/decisions.ts';
import { circlesAmong } from '../../../core/rules/circles.ts';
import { type Rule, ruleSentence } from '../../../core/rules/rule.ts';
import { type Context, defineUseCase, id, text, today } from '../context/index.ts';
import { inSnapshot, sql } from '../database/index.ts';
import { HELD, IS_RECORD, requireMailbox } from '../mail/index.ts';
import { checkedRule, requireRule, ruleFields, type RuleGiven } from './rules.ts';
import { countRehearsed, countShared, examplesOf, rehearse, rehearsedUnder } from './rehearse-store.ts';
import { listStoredRules, type StoredRule } from './rules-store.ts';
import Joi from 'joi';

/** How a standing decision meets something else. */
type Meeting =
	/** This one acts on messages that another would take as well; or the other does. */
	| 'wins'
	| 'loses'
	/** Earlier ones take all of its mail; or it takes all of a later one's. */
	| 'never-acts'
	| 'silences'
	/** They move mail to each other's folders. */
	| 'circle'
	/** These messages stay where they are: under a hold, a record, kept. */
	| 'stays'
	/** These messages go before their retention period has ended. */
	| 'before-its-time';

/** Something that a standing decision meets. */
export interface Meets {
	/** Number of the other standing decision; null: something else. */
	rule: number | null;
	name: string;
	how: Meeting;
	messages: number;
}

/** What a standing decision would have done. */
export interface Rehearsal {
	sentence: string;
	from: CalendarDate;
	to: CalendarDate;
	messages: number;
	bytes: number;
	/** How much lighter the mailbox would be. */
	freed: number;
	/** The newest messages that would have gone. */
	examples: { id: number; subject: string; from: string; on: CalendarDate | null; folder: string }[];
	meets: Meets[];
}

const MONTHS = 12;
const EXAMPLES = 5;

/* A new one comes last. */
const placeOf = ({ position }: { position?: number }) => position ?? Infinity;

/* The other standing decisions that take the same messages for the same aspect. */
async function meetOthers(
	context: Context,
	rule: Rule & Partial<StoredRule>,
	others: readonly StoredRule[],
	{ from, messages }: { from: CalendarDate; messages: number }
): Promise<Meets[]> {
	const aspectOf = ({ then, options }: Rule) => ruleOf(then).aspect(options);
	const meets: Meets[] = [];
	for (const other of others) {
		if (aspectOf(other) !== aspectOf(rule)) continue;
		const isEarlier = placeOf(other) < placeOf(rule);
		const {
			both,
			first,
			others: all
		} = await countShared(context.db, other, { today: today(context), from, isEarlier });
		const meeting = (how: Meeting, shared: number) =>
			meets.push({ rule: other.id, name: other.name, how, messages: shared });
		if (first > 0) meeting(first === messages ? 'never-acts' : 'loses', first);
		if (both > first) meeting(both - first === all ? 'silences' : 'wins', both - first);
	}
	return meets;
}

async function meetCircles(rule: Rule & Partial<StoredRule>, others: readonly StoredRule[]): Promise<Meets[]> {
	const number = rule.id ?? 0;
	const all = [...others, { ...rule, id: number }];
	return circlesAmong(all)
		.filter((circle) => circle.includes(number))
		.flatMap((circle) => circle.filter((one) => one !== number))
		.map((one) => ({ rule: one, name: others.find((of) => of.id === one)?.name ?? '', how: 'circle', messages: 0 }));
}

/* What keeps messages from going, or speaks against it. */
async function meetRetention(context: Context, rule: Rule): Promise<Meets[]> {
	const { takesAway, isBarredByHold, isBarredForRecords, protections } = ruleOf(rule.then);
	const { db } = context;
	const meets: Meets[] = [];
	const under = takesAway || isBarredByHold ? await rehearsedUnder(db, today(context)) : [];
	for (const { kind, name, messages } of under) {
		if (kind === 'hold' && isBarredByHold) meets.push({ rule: null, name: `hold ${name}`, how: 'stays', messages });
		if (kind === 'retention' && takesAway)
			meets.push({ rule: null, name: `retention ${name}`, how: 'before-its-time', messages });
	}
	const stays: [boolean, string, typeof HELD][] = [
		[isBarredForRecords(rule.options), 'records', IS_RECORD],
		[protections.includes('kept'), 'keep-list and kept mail', sql`item.kept = 1`],
		[protections.includes('flagged') || rule.options.leavesFlagged === true, 'flagged mail', sql`item.flagged = 1`],
		[protections.includes('never-archived'), 'never-archived messages', sql`item.never_archived = 1`]
	];
	for (const [applies, name, which] of stays) {
		const messages = applies ? await countRehearsed(db, which) : 0;
		if (messages > 0) meets.push({ rule: null, name, how: 'stays', messages });
	}
	return meets;
}

/**
 * What a standing decision would have done with the mail of the last twelve months, and what it meets. Changes nothing.
 *
 * @param input.id one that stands; else `mailbox` and `rule`
 * @throws Refusal
 */
export async function rehearseRule(
	context: Context,
	input: { id?: number | undefined; mailbox?: string | number | undefined; rule?: RuleGiven | undefined }
): Promise<Rehearsal> {
	// the temporary table belongs to this connection
	return inSnapshot(context.db, async (db) => {
		const within = { ...context, db };
		const stored = input.id === undefined ? undefined : await requireRule(within, input.id);
		const mailbox = await requireMailbox(within, stored?.mailboxId ?? input.mailbox ?? '');
		const rule = stored ?? { ...checkedRule(input.rule as RuleGiven), mailboxId: mailbox.id };
		const to = today(context);
		const from = monthsBefore(to, MONTHS);
		const found = await rehearse(db, rule, { today: to, from, examples: EXAMPLES });
		const others = (await listStoredRules(db, mailbox.id)).filter(
			({ id: other, isOn }) => isOn && other !== stored?.id
		);
		return {
			...found,
			sentence: ruleSentence(rule),
			from,
			to,
			examples: await examplesOf(db, found.examples),
			meets:
				found.messages === 0
					? await meetCircles(rule, others)
					: [
							...(await meetOthers(within, rule, others, { from, messages: found.messages })),
							...(await meetCircles(rule, others)),
							...(await meetRetention(within, rule))
						]
		};
	});
}

/** The use cases of this file. */
export const rehearseUseCases = [
	defineUseCase({
		name: 'rehearseRule',
		input: () =>
			Joi.object({ id, mailbox: Joi.alternatives(id, text), rule: Joi.object(ruleFields) })
				.or('id', 'rule')
				.with('rule', 'mailbox')
				.required(),
		thread: 'heavy',
		right: 'administrator',
		run: rehearseRule
	})
] as const;
