import path from 'node:path';
import { getSetting, inTransaction, putSetting } from '../database/index.ts';
import { Refusal } from '../refusal.ts';
import { appendLedger } from '../ledger/index.ts';
import { clearJunk, type JunkCleared, junkPastItsDays, mailboxesWithDigest } from '../lists/index.ts';
import { listMailboxes, threadMail } from '../mail/index.ts';
import { recalculateDue } from '../standing/index.ts';
import { emptyDueBins, listBin, type Night } from '../archive/index.ts';
import { type Context, defineJob, defineUseCase, today } from '../context/index.ts';
import { doEach } from '../do-each.ts';
import { importMailbox } from '../intake/index.ts';
import { isMachineFailing } from '../machine-trouble.ts';
import { type DigestMade, makeDigests } from '../digest/index.ts';
import { type PauseEnding, pausesEnding, type RunDocket, runSchedule, scheduleHasWork } from '../retention/index.ts';
import { returnAwaited, type Returned, someAwaited } from '../desk/index.ts';
import { rulesAreDue, runRules, type RulesRun } from '../rules/index.ts';
import { clearOutgoing, outgoingHasWork } from '../writing/index.ts';
import Joi from 'joi';

/** All results of a scheduled run. */
export interface NightRun {
	/** Messages delivered by the post office; only with stand-ins. */
	delivered: number;
	bins: Night[];
	junk: JunkCleared[];
	digests: DigestMade[];
	/** Threads that came back, answered or by their day. */
	returned: Returned[];
	/** Mail whose time had come: what went, and what could not. */
	outgoing: { sent: number; failed: number };
	/** What the standing decisions did. */
	rules: RulesRun[];
	/** The result of the retention schedule. */
	retention: RunDocket[];
	/** Pauses that end within the week. */
	pauses: PauseEnding[];
}

/*
 * A backup reads everything and is a job of its own, after the run. Of several runs in a row, one backup is enough.
 */
async function followWithBackup(context: Context): Promise<void> {
	const folder = await getSetting(context.db, 'backup-folder');
	if (!folder) return;
	await inTransaction(context.db, (db) =>
		context.follow(db, {
			useCase: 'backUp',
			input: { out: folder, isNightly: true },
			about: { kind: 'backup', folder, isNightly: true },
			once: true
		})
	);
}

const NOTHING: NightRun = {
	delivered: 0,
	outgoing: { sent: 0, failed: 0 },
	returned: [],
	bins: [],
	junk: [],
	digests: [],
	rules: [],
	retention: [],
	pauses: []
};

/* Everything that moves or destroys mail, after what it depends on: by settings that are not applied, nothing is done. */
async function decideByItself(context: Context, run: NightRun): Promise<void> {
	// some settings count from the last message of a thread
	await threadMail(context);
	await recalculateDue(context);
	await doEach(context, [
		// what is answered comes back before anything else is decided on it
		{ name: 'Awaited answers', work: async () => void (run.returned = (await returnAwaited(context)).returned) },
		{ name: 'Junk', work: async () => void (run.junk = await clearJunk(context)) },
		{ name: 'The bin', work: async () => void (run.bins = await emptyDueBins(context)) },
		{ name: 'Digests', work: async () => void (run.digests = await makeDigests(context)) },
		{ name: 'Standing decisions', work: async () => void (run.rules = (await runRules(context, {})).runs) },
		{ name: 'Retention', work: async () => void (run.retention = (await runSchedule(context, {})).dockets) }
	]);
}

/**
 * Does the daily scheduled work. A part that fails, such as a digest that cannot be written, keeps none of the others from
 * being done, the backup least of all.
 *
 * @throws Refusal after the last part, naming those that failed
 */
export async function runNight(context: Context): Promise<NightRun> {
	const run = { ...NOTHING };
	let failure: unknown;
	try {
		await doEach(context, [
			...(context.outside.standIns
				? [{ name: 'New mail', work: async () => void (run.delivered = await takeDelivery(context)) }]
				: []),
			{ name: 'Outgoing mail', work: async () => void (run.outgoing = await clearOutgoing(context)) },
			{ name: 'Scheduled work', work: () => decideByItself(context, run) },
			{ name: 'Pauses', work: async () => void (run.pauses = await pausesEnding(context)) }
		]);
	} catch (error) {
		// of a damaged data file, or to a full disk, no backup is made
		if (isMachineFailing(error)) throw error;
		failure = error;
	}
	await followWithBackup(context);
	if (failure) throw failure;
	return run;
}

/** Whether a scheduled run has anything to do: an empty run is not reported. */
export async function nightHasWork(context: Context): Promise<boolean> {
	const { db } = context;
	if ((await mailboxesWithDigest(db)).length > 0 || (await getSetting(db, 'backup-folder'))) return true;
	if (
		(await outgoingHasWork(context)) ||
		(await someAwaited(context)) ||
		(await scheduleHasWork(context)) ||
		(await pausesEnding(context)).length > 0
	)
		return true;
	if (context.outside.standIns && (await getSetting(db, 'delivered-through')) !== today(context)) return true;
	for (const mailbox of await listMailboxes(db)) {
		if (await rulesAreDue(context, mailbox.id)) return true;
		if ((await junkPastItsDays(context, mailbox)) > 0) return true;
		if (!mailbox.emptiesBin) continue;
		const { due, dueTomorrow } = await listBin(context, { mailboxId: mailbox.id, limit: 1 });
		if (due.messages + dueTomorrow.messages > 0) return true;
	}
	return false;
}

/* ---- the demo's post office and its clock ---- */
interface Delivery {
	mailbox: string;
	/** A folder with one file for each folder of the mailbox. */
	path: string;
}

/* The post office's mail up to today, for existing mailboxes. */
async function takeDelivery(context: Context): Promise<number> {
	const { standIns } = context.outside;
	if (!standIns) return 0;
	const through = today(context);
	const since = await getSetting(context.db, 'delivered-through');
	if (since === through) return 0;
	const mailboxes = (await listMailboxes(context.db)).map(({ name, addresses }) => ({ name, addresses }));
	const answer = await fetch(`http://127.0.0.1:${standIns.post}/deliver`, {
		method: 'POST',
		headers: { 'content-type': 'application/json' },
		body: JSON.stringify({ since, through, mailboxes }),
		signal: AbortSignal.timeout(60_000)
	}).catch((cause: unknown) => {
		throw new Refusal('not-possible', 'The post office of the demo does not answer. Nothing was delivered.', { cause });
	});
	if (!answer.ok) throw new Refusal('not-possible', `The post office of the demo answered ${answer.status}.`);
	// imported files are removed from there, so it has to be the stand-ins' folder
	const isTheirs = (place: string) => path.resolve(place).startsWith(standIns.folder + path.sep);
	let delivered = 0;
	for (const { mailbox, path: place } of (await answer.json()) as Delivery[])
		if (isTheirs(place))
			delivered += (
				await importMailbox(context, {
					path: place,
					mailbox,
					source: `post of ${through}`,
					upload: place
				})
			).added;
	await inTransaction(context.db, (db) => putSetting(db, 'delivered-through', through));
	return delivered;
}

const MOST_DAYS = 366;

/* A docket that waits for a person is reported once, as the last run left it. */
function withNewer<T extends { docket?: number | undefined; asks: boolean }>(
	before: readonly T[],
	newer: readonly T[]
): T[] {
	const again = new Set(newer.flatMap(({ docket, asks }) => (asks && docket !== undefined ? [docket] : [])));
	return [...before.filter(({ docket }) => docket === undefined || !again.has(docket)), ...newer];
}

/**
 * Passes days in the demo, each with its mail and its scheduled run. Not available outside of a demo.
 *
 * @throws Refusal
 */
export async function letDaysPass(context: Context, input: { days: number }): Promise<NightRun & { today: string }> {
	if (!context.outside.standIns)
		throw new Refusal(
			'not-possible',
			'Days pass by themselves here: only a demo, with stand-ins outside, can be moved on.'
		);
	if (!Number.isInteger(input.days) || input.days < 1 || input.days > MOST_DAYS)
		throw new Refusal('bad-input', `1 to ${MOST_DAYS} days can pass at once. Nothing was done.`);
	const all: NightRun = { ...NOTHING, outgoing: { ...NOTHING.outgoing }, returned: [], digests: [], pauses: [] };
	for (let day = 1; day <= input.days && !context.signal.aborted; day++) {
		await inTransaction(context.db, async (db) => {
			const ahead = Number((await getSetting(db, 'clock-ahead-days')) ?? 0) + 1;
			await putSetting(db, 'clock-ahead-days', String(ahead));
			await appendLedger(db, {
				at: context.now(),
				by: context.actor,
				action: 'clock-moved',
				details: { daysAhead: ahead }
			});
		});
		await context.readClock();
		const night = await runNight(context);
		all.delivered += night.delivered;
		all.outgoing.sent += night.outgoing.sent;
		all.outgoing.failed += night.outgoing.failed;
		all.returned.push(...night.returned);
		all.bins = withNewer(all.bins, night.bins);
		all.junk = withNewer(all.junk, night.junk);
		all.digests.push(...night.digests);
		all.rules = withNewer(all.rules, night.rules);
		all.retention = withNewer(all.retention, night.retention);
		all.pauses.push(...night.pauses);
		context.report({ done: day, total: input.days, note: `${day} of ${input.days} days have passed` });
	}
	return { ...all, today: today(context) };
}

/** Whether days can be passed, as in a demo. */
export async function clockCanMove({ outside }: Context): Promise<boolean> {
	return outside.standIns !== undefined;
}

/** The use cases of this file. */
export const nightUseCases = [
	defineUseCase({
		name: 'clockCanMove',
		thread: 'reader',
		right: 'person',
		run: clockCanMove
	}),
	defineUseCase({
		name: 'nightHasWork',
		thread: 'reader',
		right: 'administrator',
		run: nightHasWork
	}),
	defineJob(
		{
			name: 'runNight',
			thread: 'writer',
			right: 'administrator',
			run: runNight
		},
		{ lane: 'docket', about: () => ({ kind: 'night' }) }
	),
	defineJob(
		{
			name: 'letDaysPass',
			input: () => Joi.object({ days: Joi.number().required() }).required(),
			thread: 'writer',
			right: 'administrator',
			run: letDaysPass
		},
		{ lane: 'docket', about: (_context, { days }) => ({ kind: 'days', days }) }
	)
] as const;
