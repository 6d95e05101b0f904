import { showDate } from '../../../core/calendar.ts';
import { type Context, defineUseCase } from '../context/index.ts';
import { type Db, getSetting, inTransaction, putSetting } from '../database/index.ts';
import { Refusal } from '../refusal.ts';
import { appendLedger } from './ledger-store.ts';

/*
 * A machine whose battery is empty starts in another year, and what falls due by the day would be destroyed. The last
 * instant that was right is kept; a clock that stands before it, or far behind it, is doubted until a person confirms it.
 */

const HOUR_MS = 3_600_000;
/* Two processes note instants in the order of their transactions. */
const BACK_MS = HOUR_MS;
const AHEAD_MS = 31 * 24 * HOUR_MS;

/** A clock that is doubted. */
export interface ClockDoubt {
	/** The last instant that was right, and what the clock says; ISO 8601 in UTC. */
	last: string;
	now: string;
}

async function lastRight(db: Db): Promise<string | undefined> {
	const marked = await getSetting(db, 'clock-mark');
	if (marked !== undefined) return marked;
	return (await db('ledger').orderBy('number', 'desc').first('at'))?.at;
}

function doubted(last: string | undefined, now: Date): ClockDoubt | undefined {
	if (last === undefined) return undefined;
	const passed = now.getTime() - Date.parse(last);
	return passed < -BACK_MS || passed > AHEAD_MS ? { last, now: now.toISOString() } : undefined;
}

/**
 * Whether the machine's clock is doubted; notes that it is right, if it is. A clock that was given (KOVREL_NOW, or moved
 * in a demo) is somebody's decision.
 */
export async function noteClock(context: Context): Promise<ClockDoubt | undefined> {
	if (context.clockIsGiven) return undefined;
	const now = context.now();
	const marked = await getSetting(context.db, 'clock-mark');
	const doubt = doubted(await lastRight(context.db), now);
	const isOld = marked === undefined || now.getTime() - Date.parse(marked) > HOUR_MS;
	if (!doubt && isOld) await inTransaction(context.db, (db) => putSetting(db, 'clock-mark', now.toISOString()));
	return doubt;
}

/** Whether the machine's clock is doubted. */
export async function clockDoubt(context: Context): Promise<ClockDoubt | undefined> {
	return context.clockIsGiven ? undefined : doubted(await lastRight(context.db), context.now());
}

/** The doubt as a sentence. */
export function doubtInWords(context: Pick<Context, 'dateOf'>, { last, now }: ClockDoubt): string {
	const on = (instant: string) => showDate(context.dateOf(Date.parse(instant) / 1000));
	return `The clock of this machine says ${on(now)}, and the last work here was on ${on(last)}. Nothing is destroyed until an administrator has said that the clock is right.`;
}

/** Checks that the clock can be trusted with what cannot be taken back. @throws Refusal */
export async function requireRightClock(context: Context): Promise<void> {
	const doubt = await noteClock(context);
	if (doubt)
		throw new Refusal(
			'not-possible',
			`${doubtInWords(context, doubt)} An administrator says so on any page, or by "kovrel clock --confirm". Nothing was done.`
		);
}

/** Says that the clock is right. */
export async function confirmClock(context: Context): Promise<{ now: string }> {
	const now = context.now();
	return inTransaction(context.db, async (db) => {
		const last = await lastRight(db);
		await putSetting(db, 'clock-mark', now.toISOString());
		await appendLedger(db, { at: now, by: context.actor, action: 'clock-confirmed', details: { last: last ?? '' } });
		return { now: now.toISOString() };
	});
}

/** The use cases of this file. */
export const clockUseCases = [
	defineUseCase({ name: 'noteClock', thread: 'writer', right: 'administrator', run: noteClock }),
	defineUseCase({ name: 'confirmClock', thread: 'writer', right: 'administrator', run: confirmClock })
] as const;
