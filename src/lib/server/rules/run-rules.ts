import type { CalendarDate } from '../../../core/calendar.ts';
import { ruleOf } from '../../../core/docket/decisions.ts';
import { type Context, defineJob, defineUseCase, id, text, today } from '../context/index.ts';
import { doEach } from '../do-each.ts';
import {
	type Decided,
	carryOutScheduled,
	discardDocket,
	requireDocket,
	scheduledDockets,
	takeBackLines,
	countDecisions
} from '../docket/index.ts';
import { inTransaction } from '../database/index.ts';
import { listMailboxes, type Mailbox, requireMailbox } from '../mail/index.ts';
import { Refusal } from '../refusal.ts';
import { requireRule } from './rules.ts';
import {
	beginRun,
	followThreads,
	gatherRules,
	linesOfRule,
	listStoredRules,
	putRunDocket,
	type StoredRule
} from './rules-store.ts';
import Joi from 'joi';

/** Name of the dockets of standing decisions, and the mark by which they are recognised. */
const RULES_DOCKET = 'Standing decisions';

/** What a run did in one mailbox. */
export interface RulesRun {
	mailboxId: number;
	mailbox: string;
	docket: number;
	messages: number;
	bytes: number;
	/** Whether the docket waits for a person. */
	asks: boolean;
	byRule: { rule: number; name: string; messages: number }[];
}

const lineOf = ({ id: ruleId, then, options, name }: StoredRule, runId: number): Decided => ({
	decision: then,
	options,
	scope: { kind: 'rule', ruleId, runId, label: `by the standing decision “${name}”` }
});

/* A draft of which nothing is left to decide, because what it rested on was forgotten, waits for nobody. */
async function discardWaiting(context: Context, mailboxId: number): Promise<void> {
	const { draftId, hasRun } = await scheduledDockets(context.db, mailboxId, RULES_DOCKET);
	if (draftId !== undefined && !hasRun) await discardDocket(context, { id: draftId });
}

/* A draft that a person has changed is theirs: what it rests on is not gathered anew. */
async function isTheirs(context: Context, mailboxId: number): Promise<boolean> {
	const { draftId, hasRun } = await scheduledDockets(context.db, mailboxId, RULES_DOCKET);
	if (draftId === undefined || hasRun) return false;
	return (await requireDocket(context, draftId)).changedBy.length > 0;
}

async function runInMailbox(context: Context, mailbox: Mailbox): Promise<RulesRun | undefined> {
	await inTransaction(context.db, (db) => followThreads(db, mailbox.id));
	const rules = (await listStoredRules(context.db, mailbox.id)).filter(
		({ isOn, then }) => isOn && (then !== 'archive' || mailbox.archives)
	);
	if (rules.length === 0 || (await isTheirs(context, mailbox.id))) return undefined;
	const on = today(context);
	const runId = await inTransaction(context.db, async (db) => {
		const run = await beginRun(db, mailbox.id, on);
		await gatherRules(db, rules, {
			runId: run,
			today: on,
			aspectOf: ({ then, options }) => ruleOf(then).aspect(options)
		});
		return run;
	});
	// what is held or kept stays, night after night: that alone makes no docket
	const found = rules.map((rule) => ({ rule, line: lineOf(rule, runId) }));
	const changed = await countDecisions(
		context,
		mailbox,
		found.map(({ line }) => line)
	);
	const acting = found.filter(({ line }) => changed.has(line));
	const lines = acting.map(({ line }) => line);
	const byRule = acting.map(({ rule: { id, name }, line }) => ({
		rule: id,
		name,
		messages: changed.get(line) as number
	}));
	if (lines.length === 0) {
		await discardWaiting(context, mailbox.id);
		return undefined;
	}
	const done = await carryOutScheduled(context, mailbox, {
		name: RULES_DOCKET,
		lines,
		note: ({ db }, docket) => putRunDocket(db, runId, docket.id)
	});
	if (!done) return undefined;
	const docket = await requireDocket(context, done.docket.id);
	return {
		mailboxId: mailbox.id,
		mailbox: mailbox.name,
		docket: docket.id,
		messages: docket.messages,
		bytes: docket.bytes,
		asks: done.asks,
		byRule
	};
}

/**
 * Runs the standing decisions: one docket a mailbox. The first docket of a mailbox waits for a person (invariant 9). Mail
 * that came while Kovrel was off is taken like any other.
 *
 * @throws Refusal
 */
export async function runRules(
	context: Context,
	input: { mailbox?: string | undefined }
): Promise<{ runs: RulesRun[] }> {
	const meant =
		input.mailbox === undefined ? await listMailboxes(context.db) : [await requireMailbox(context, input.mailbox)];
	const runs: RulesRun[] = [];
	const runIn = async (mailbox: Mailbox) => {
		const run = await runInMailbox(context, mailbox);
		if (run) runs.push(run);
	};
	await doEach(
		context,
		meant.map((mailbox) => ({ name: mailbox.name, work: () => runIn(mailbox) }))
	);
	return { runs };
}

/**
 * Takes back all that a standing decision did in a time; what was changed since stays. It is switched off by that no more
 * than before: the messages are not taken by it again.
 *
 * @param input.since its runs from this day on, and before `until`
 * @throws Refusal
 */
export async function takeBackRule(
	context: Context,
	input: { id: number; since?: CalendarDate | undefined; until?: CalendarDate | undefined }
): Promise<{ dockets: number[]; messages: number; bytes: number }> {
	const rule = await requireRule(context, input.id);
	const lines = await linesOfRule(context.db, rule.id, input);
	if (lines.length === 0)
		throw new Refusal('not-possible', `“${rule.name}” did nothing in that time that could be taken back.`);
	const whole = { dockets: [] as number[], messages: 0, bytes: 0 };
	for (const { docketId, lineId } of lines) {
		if (context.signal.aborted) break;
		const { messages, bytes } = await takeBackLines(context, { id: docketId, lineIds: [lineId] });
		whole.dockets.push(docketId);
		whole.messages += messages;
		whole.bytes += bytes;
	}
	return whole;
}

/** The use cases of this file. */
export const runRulesUseCases = [
	defineJob(
		{
			name: 'runRules',
			input: () => Joi.object({ mailbox: text }).required(),
			thread: 'writer',
			right: 'administrator',
			run: runRules
		},
		{ lane: 'docket', about: (_context, { mailbox }) => ({ kind: 'standing decisions', mailbox }) }
	),
	defineUseCase({
		name: 'takeBackRule',
		input: () =>
			Joi.object({
				id: id.required(),
				since: Joi.string().isoDate().max(10),
				until: Joi.string().isoDate().max(10)
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: takeBackRule
	})
] as const;
