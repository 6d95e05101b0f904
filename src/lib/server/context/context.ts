import type { Actor } from '../../../core/access/roles.ts';
import type { JobAbout } from '../../../core/jobs/about.ts';
import type { CalendarDate } from '../../../core/calendar.ts';
import type { Instant } from '../../../core/message/date.ts';
import type { Db } from '../database/index.ts';
import type { Outside } from '../outside/index.ts';

/** How far a piece of work has come. */
export interface Progress {
	/** In the unit of `total`: bytes or messages. */
	done: number;
	/** Undefined where the end is not known. */
	total: number | undefined;
	/** What is being counted, in words: "1,204 messages read". */
	note: string;
}

/** Why a signal says stop where nobody asked for that: the server ends, and the job goes on at its next start. */
export const ENDING = 'the server ends';

/** A job that follows something. */
export interface Following {
	/** The name of its use case. */
	useCase: string;
	input: unknown;
	about: JobAbout;
	/** Whether one of its kind that is there already does what is wanted. */
	once?: boolean;
}

/** What a use case works with. */
export interface Context {
	db: Db;
	dataFolder: string;
	/** The one clock. */
	now(): Date;
	/** The same without the days that were let pass in a demo: sessions and one-time codes go by it. */
	machineNow(): Date;
	/** On which date of the office's calendar an instant falls. */
	dateOf(instant: Instant): CalendarDate;
	/** Who acts. */
	actor: Actor;
	/** Asked between steps: a person may stop what takes long. */
	signal: AbortSignal;
	report(progress: Progress): void;
	/** Reads again how far the clock was moved: another thread may have moved it. */
	readClock(): Promise<void>;
	/** What is done outside of Kovrel. */
	outside: Outside;
	/**
	 * Notes a job that is to be done once this is: in the transaction of `db`, so that neither is lost without the other. At a
	 * terminal nobody is there to do it.
	 */
	follow(db: Db, next: Following): Promise<void>;
}

/** Today in the office. */
export function today(context: Context): CalendarDate {
	return context.dateOf(context.now().getTime() / 1000);
}

/** The present instant in seconds. */
export function nowSeconds(context: Context): Instant {
	return Math.floor(context.now().getTime() / 1000);
}

/** The present instant for sessions and one-time codes, in seconds. */
export function machineSeconds(context: Context): Instant {
	return Math.floor(context.machineNow().getTime() / 1000);
}

/** The same with somebody else acting. */
export function actingAs(context: Context, actor: Actor): Context {
	return { ...context, actor };
}

/** Opens a data folder, brought up to date, in somebody's name. */
export type OpenDataFolder = (dataFolder: string, actor: Actor) => Promise<Context>;
