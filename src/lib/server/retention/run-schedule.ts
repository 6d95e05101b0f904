import { isSame } from '../../../core/access/roles.ts';
import { type ClassWord, UNCLASSED } from '../../../core/retention/classes.ts';
import { RUN_DECISIONS } from '../../../core/retention/scheduled-run.ts';
import { type CalendarDate, daysBetween, readDate, showDate } from '../../../core/calendar.ts';
import type { Left } from '../../../core/docket/left.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import { showBytes } from '../../../core/weigh/units.ts';
import { inTransaction } from '../database/index.ts';
import { Refusal } from '../refusal.ts';
import {
	carryOut,
	type Decided,
	type DocketView,
	discardDocket,
	getDocket,
	listDockets,
	prepareDocket,
	scheduledDockets,
	tryDecisions,
	updateDraft,
	viewDocket
} from '../docket/index.ts';
import { type ClassWeight, findClass, putClassQuota, recalculateDue, weighClasses } from '../standing/index.ts';
import { appendLedger, clockDoubt, noteClock } from '../ledger/index.ts';
import { listMailboxes, type Mailbox, putRetaining, requireMailbox, RETAINING, type Retaining } from '../mail/index.ts';
import { type Context, defineJob, defineUseCase, text, today } from '../context/index.ts';
import { doEach } from '../do-each.ts';
import Joi from 'joi';

export { RETAINING };

/** A docket of a scheduled run. */
export interface RunDocket extends Weight {
	/** Undefined in a preview. */
	docket: number | undefined;
	mailboxId: number;
	mailbox: string;
	what: 'archive' | 'destroy';
	/** Whether it waits for a person. */
	asks: boolean;
}

/** The result of a run of the schedule. */
export interface ScheduleRun {
	asOf: CalendarDate;
	dockets: RunDocket[];
	/** Messages archived and destroyed; dockets that wait are left out. */
	archived: number;
	destroyed: number;
	left: Left[];
}

/* Separate dockets, as a destruction cannot be taken back and is decided on separately. */
const RUNS = [
	{ what: 'archive', name: 'Retention: archive', decision: RUN_DECISIONS.archive },
	{ what: 'destroy', name: 'Retention: destroy', decision: RUN_DECISIONS.destroy }
] as const;

const label = (state: 'live' | 'archived', by: CalendarDate) =>
	`${state === 'live' ? 'in folders' : 'in the archive'} whose period had ended on ${showDate(by)}`;

/* The scopes of a run: live mail counts against the quota, and is a line of its own. */
function linesOf({ what, decision }: (typeof RUNS)[number], by: CalendarDate): Decided[] {
	const states = what === 'archive' ? (['live'] as const) : (['live', 'archived'] as const);
	return states.map((state) => ({
		decision,
		options: {},
		scope: {
			kind: 'due',
			action: what,
			by,
			state,
			label: what === 'archive' ? `whose time in folders had ended on ${showDate(by)}` : label(state, by)
		}
	}));
}

function addLeft(to: Left[], left: readonly Left[]): void {
	for (const { reason, messages, holds } of left) {
		const known = to.find((one) => one.reason === reason);
		if (known) known.messages += messages;
		else to.push({ reason, messages, ...(holds ? { holds } : {}) });
	}
}

/* The counts of a run in a mailbox, whether or not it is switched on. */
async function tryRun(context: Context, mailbox: Mailbox, by: CalendarDate, run: ScheduleRun): Promise<void> {
	for (const one of RUNS) {
		if (one.what === 'archive' && !mailbox.archives) continue;
		let messages = 0;
		let bytes = 0;
		for (const tried of await tryDecisions(context, mailbox, linesOf(one, by), { ahead: true })) {
			messages += tried.messages;
			bytes += tried.bytes;
			addLeft(run.left, tried.left);
		}
		if (messages > 0)
			run.dockets.push({
				docket: undefined,
				mailboxId: mailbox.id,
				mailbox: mailbox.name,
				what: one.what,
				messages,
				bytes,
				asks: true
			});
		run[one.what === 'archive' ? 'archived' : 'destroyed'] += messages;
	}
}

const isOfARun = ({ scope, options }: Decided) => scope.kind === 'due' && options.only === undefined;

/*
 * The one open docket of a run in a mailbox: an earlier draft is counted again, and one that a person has changed is
 * theirs. If nothing is due there is none.
 */
async function draftRun(
	context: Context,
	mailbox: Mailbox,
	one: (typeof RUNS)[number],
	by: CalendarDate
): Promise<{ docket: DocketView | undefined; left: Left[] }> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const { draftId } = await scheduledDockets(db, mailbox.id, one.name);
		const lines = linesOf(one, by);
		let former = draftId === undefined ? undefined : await getDocket(db, draftId);
		if (former?.lines.every(isOfARun)) former = await updateDraft(within, { id: former.id, lines });
		if (former) {
			const left = former.lines.flatMap((line) => line.left);
			if (former.messages > 0) return { docket: viewDocket(former, mailbox), left };
			await discardDocket(within, { id: former.id });
			return { docket: undefined, left };
		}
		const tried = await tryDecisions(within, mailbox, lines);
		if (tried.every(({ messages }) => messages === 0))
			return { docket: undefined, left: tried.flatMap((line) => line.left) };
		const docket = await prepareDocket(within, { mailboxId: mailbox.id, name: one.name, byItself: true, lines });
		return { docket, left: docket.lines.flatMap((line) => line.left) };
	});
}

/*
 * One docket of a run: continued after a crash; left as a draft; or carried out, if the mailbox is automatic and its
 * first docket was approved.
 */
async function runOne(
	context: Context,
	mailbox: Mailbox,
	one: (typeof RUNS)[number],
	by: CalendarDate
): Promise<{ docket: DocketView | undefined; left: Left[]; messages: number; bytes: number; asks: boolean }> {
	const { hasRun, begun } = await scheduledDockets(context.db, mailbox.id, one.name);
	let before = { messages: 0, bytes: 0 };
	// a docket stopped by a person is theirs to continue
	if (begun && !isSame(begun.by, context.actor))
		return { docket: undefined, left: [], messages: 0, bytes: 0, asks: true };
	if (begun) {
		const done = await carryOut(context, { id: begun.id, confirm: mailbox.name, byItself: true });
		before = done.byThisCall;
		if (!done.finished) return { docket: undefined, left: [], ...before, asks: false };
	}
	const { docket, left } = await draftRun(context, mailbox, one, by);
	if (!docket) return { docket, left, ...before, asks: false };
	const isDoubted = one.what === 'destroy' && (await clockDoubt(context)) !== undefined;
	if (mailbox.retains !== 'do' || !(hasRun || begun) || isDoubted || !docket.lines.every(isOfARun))
		return { docket, left, messages: docket.messages, bytes: docket.bytes, asks: true };
	try {
		// the confirmation guards against a slip of the hand, which cannot happen here
		const done = await carryOut(context, { id: docket.id, expected: docket, confirm: mailbox.name, byItself: true });
		return {
			docket,
			left: done.left,
			messages: before.messages + done.byThisCall.messages,
			bytes: before.bytes + done.byThisCall.bytes,
			asks: false
		};
	} catch (error) {
		// another run was faster: it has done its part, and the rest is found by the next run
		if (!(error instanceof Refusal) || error.code !== 'changed') throw error;
		if ((await getDocket(context.db, docket.id))?.state === 'drafted') await discardDocket(context, { id: docket.id });
		return { docket: undefined, left, ...before, asks: false };
	}
}

/* Whether a mailbox is switched on, and its next day has come. */
const itsDay = (mailbox: Mailbox, on: CalendarDate) =>
	mailbox.retains !== 'off' &&
	(mailbox.retainedOn === undefined ||
		mailbox.retainedOn > on ||
		daysBetween(mailbox.retainedOn, on) >= mailbox.retainsEvery);

/**
 * Runs the schedule: prepares what is due and, if a mailbox is automatic and a person has carried out its first
 * docket, carries it out. Missed runs are made up for, as due mail stays due.
 *
 * @param input.mailbox name; undefined: all
 * @param input.asOf undefined: today. A day to come can only be tried
 * @param input.always also before a mailbox's next day, when a person asks for it
 * @throws Refusal
 */
export async function runSchedule(
	context: Context,
	input: { mailbox?: string | undefined; asOf?: string | undefined; dryRun?: boolean; always?: boolean }
): Promise<ScheduleRun> {
	const asOf = input.asOf === undefined ? today(context) : readDate(input.asOf);
	if (!asOf) throw new Refusal('bad-input', `"${input.asOf}" is no date; write 2026-12-01. Nothing was done.`);
	if (asOf > today(context) && !input.dryRun)
		throw new Refusal(
			'bad-input',
			`${showDate(asOf)} is still to come: mail due by then can only be tried (--dry-run). Nothing was done.`
		);
	const only = input.mailbox === undefined ? undefined : await requireMailbox(context, input.mailbox);
	if (!input.dryRun) await noteClock(context);
	const run: ScheduleRun = { asOf, dockets: [], archived: 0, destroyed: 0, left: [] };
	if (!(await recalculateDue(context)).finished) return run;
	const work = async (mailbox: Mailbox) => {
		if (input.dryRun) await tryRun(context, mailbox, asOf, run);
		else if (itsDay(mailbox, asOf) || (input.always && mailbox.retains !== 'off')) await runIn(context, mailbox, run);
	};
	await doEach(
		context,
		(only ? [only] : await listMailboxes(context.db)).map((mailbox) => ({
			name: mailbox.name,
			work: () => work(mailbox)
		}))
	);
	return run;
}

async function runIn(context: Context, mailbox: Mailbox, run: ScheduleRun): Promise<void> {
	for (const one of RUNS) {
		if (one.what === 'archive' && !mailbox.archives) continue;
		const { docket, left, messages, bytes, asks } = await runOne(context, mailbox, one, run.asOf);
		addLeft(run.left, left);
		if (messages > 0)
			run.dockets.push({
				docket: docket?.id,
				mailboxId: mailbox.id,
				mailbox: mailbox.name,
				what: one.what,
				messages,
				bytes,
				asks
			});
		if (!asks) run[one.what === 'archive' ? 'archived' : 'destroyed'] += messages;
		if (context.signal.aborted) return;
	}
	await inTransaction(context.db, (db) => putRetaining(db, mailbox.id, { ...mailbox, retainedOn: run.asOf }));
}

/** Whether a run has anything to do by the schedule. */
export async function scheduleHasWork(context: Context): Promise<boolean> {
	return (await listMailboxes(context.db)).some((mailbox) => itsDay(mailbox, today(context)));
}

/** A mailbox's settings for scheduled runs; only those given change. */
export interface RetainingSettings {
	mailbox: string;
	mode?: Retaining | undefined;
	every?: number | undefined;
	/** How many messages due today the person was shown, for switching it on. */
	seen?: number | undefined;
	/** Its own quotas, by the word of the class; null: the class's own applies. */
	quotas?: Record<ClassWord, number | null> | undefined;
}

/**
 * Sets the scheduled runs of a mailbox. Switching them on requires that somebody saw what would happen (invariant 9).
 *
 * @throws Refusal
 */
export async function setRetaining(context: Context, input: RetainingSettings): Promise<Mailbox> {
	const { mode, every, seen, quotas = {} } = input;
	const refuse = (message: string) => new Refusal('bad-input', `${message} Nothing was changed.`);
	if (mode !== undefined && !RETAINING.includes(mode)) throw refuse(`Retention is ${RETAINING.join(', ')}.`);
	if (every !== undefined && (!Number.isInteger(every) || every < 1 || every > 366))
		throw refuse('The schedule runs every 1 to 366 days.');
	if (Object.values(quotas).some((bytes) => bytes !== null && (!Number.isSafeInteger(bytes) || bytes < 1)))
		throw refuse('The quota of a class is a number of bytes.');
	const before = await requireMailbox(context, input.mailbox);
	if (mode !== undefined && mode !== 'off' && before.retains === 'off') {
		const would = await runSchedule(context, { mailbox: before.name, dryRun: true });
		const due = would.archived + would.destroyed;
		if (seen !== due)
			throw new Refusal(
				'changed',
				`Switching retention on in ${before.name} makes ${due} messages due today: ${would.archived} to be archived, ${would.destroyed} to be destroyed. Look at them, and say the number. Nothing was changed.`
			);
	}
	return inTransaction(context.db, async (db) => {
		const mailbox = await requireMailbox({ ...context, db }, input.mailbox);
		const next: Mailbox = {
			...mailbox,
			retains: mode ?? mailbox.retains,
			retainsEvery: every ?? mailbox.retainsEvery
		};
		const set: string[] = [];
		for (const [word, bytes] of Object.entries(quotas)) {
			const of = await findClass(db, word);
			if (!of) throw refuse(`There is no class “${word}”.`);
			if (word === UNCLASSED) throw refuse('Mail that nobody has classed counts against the quota of its mailbox.');
			await putClassQuota(db, mailbox.id, of.id, bytes);
			set.push(`${of.name}: ${bytes === null ? 'as the class says' : showBytes(bytes)}`);
		}
		await putRetaining(db, mailbox.id, next);
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'retaining-set',
			details: {
				mailbox: mailbox.name,
				mode: next.retains,
				every: next.retainsEvery,
				...(set.length === 0 ? {} : { quotas: set }),
				before: mailbox.retains
			}
		});
		return next;
	});
}

/** A mailbox's settings for scheduled runs, and the counts of a run today. */
interface RunView {
	mailboxId: number;
	mailbox: string;
	mode: Retaining;
	every: number;
	ranOn: CalendarDate | undefined;
	/** The classes but the unclassed, with weight and quota. */
	classes: ClassWeight[];
	archive: number;
	destroy: number;
	left: Left[];
	/** Dockets of a run that wait for a person, or were stopped. */
	waiting: { id: number; name: string; messages: number }[];
}

/** All mailboxes with their settings for scheduled runs. */
async function listRuns(context: Context): Promise<RunView[]> {
	const views: RunView[] = [];
	for (const mailbox of await listMailboxes(context.db)) {
		const run: ScheduleRun = { asOf: today(context), dockets: [], archived: 0, destroyed: 0, left: [] };
		await tryRun(context, mailbox, run.asOf, run);
		const open = await listDockets(context.db, {
			mailboxId: mailbox.id,
			states: ['drafted', 'carrying-out'],
			limit: 100
		});
		views.push({
			mailboxId: mailbox.id,
			mailbox: mailbox.name,
			mode: mailbox.retains,
			every: mailbox.retainsEvery,
			ranOn: mailbox.retainedOn,
			classes: await weighClasses(context.db, mailbox.id),
			archive: run.archived,
			destroy: run.destroyed,
			left: run.left,
			waiting: open
				.filter(({ name }) => RUNS.some((one) => one.name === name))
				.map(({ id, name, messages }) => ({ id, name, messages }))
		});
	}
	return views;
}

/** The use cases of this file. */
export const runScheduleUseCases = [
	defineUseCase({
		name: 'listRuns',
		thread: 'heavy',
		right: 'administrator',
		run: listRuns
	}),
	defineUseCase({
		name: 'setRetaining',
		input: () =>
			Joi.object({
				mailbox: text.required(),
				mode: Joi.valid('off', 'ask', 'do'),
				every: Joi.number(),
				seen: Joi.number(),
				quotas: Joi.object().pattern(Joi.string().max(100), Joi.number().allow(null)).max(100)
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: setRetaining
	}),
	defineJob(
		{
			name: 'runSchedule',
			input: () => Joi.object({ mailbox: text, asOf: text, dryRun: Joi.boolean(), always: Joi.boolean() }).required(),
			thread: 'writer',
			right: 'administrator',
			run: runSchedule
		},
		{ lane: 'docket', about: (_context, { mailbox }) => ({ kind: 'scheduled run', mailbox }) }
	)
] as const;
