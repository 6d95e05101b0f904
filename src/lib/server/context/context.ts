import type { Actor } from '../../../core/access/roles.ts';
import type { JobAbout } from '../../../core/jobs/about.ts';
import type { CalendarDate } from '../../../core/calendar.ts';
import type { Instant } from '../../../core/message/date.ts';
import type { Db } from '../database/index.ts';
import type { Outside } from '../outside/index.ts';

/** The progress of a piece of work. */
export interface Progress {
	/** In the unit of `total`: bytes or messages. */
	done: number;
	/** Undefined if the end is not known. */
	total: number | undefined;
	/** The count in words: "1,204 messages read". */
	note: string;
}

/** The reason of a stop signal that no person sent: the server ends, and the job goes on at its next start. */
export const ENDING = 'the server ends';

/** A job that follows another. */
export interface Following {
	/** The name of its use case. */
	useCase: string;
	input: unknown;
	about: JobAbout;
	/** Whether a waiting job of its kind is enough. */
	once?: boolean;
}

/** What every use case needs to work. */
export interface Context {
	db: Db;
	dataFolder: string;
	/** The one clock. */
	now(): Date;
	/** The clock without the days passed in a demo: sessions and one-time codes go by it. */
	machineNow(): Date;
	/** Whether the clock is not the machine's: fixed by KOVREL_NOW, or moved in a demo. */
	clockIsGiven: boolean;
	/** The date of an instant in the office's calendar. */
	dateOf(instant: Instant): CalendarDate;
	/** The person who acts. */
	actor: Actor;
	/** Checked between steps: a person may stop long work. */
	signal: AbortSignal;
	report(progress: Progress): void;
	/** Whether an interrupted job goes on: it may have been done, and only its end not noted. */
	resumes: boolean;
	/** Reads the clock's offset again: another thread may have changed it. */
	readClock(): Promise<void>;
	/** The bytes that are free on the disk of the data folder. */
	freeBytes(): number;
	/** Services outside of Kovrel. */
	outside: Outside;
	/**
	 * Enqueues a job to follow, in the transaction of `db`, so that neither is lost without the other. A terminal has
	 * nobody to run it.
	 */
	follow(db: Db, next: Following): Promise<void>;
}

/** Today's date in the office. */
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

/** The same with another actor. */
export function actingAs(context: Context, actor: Actor): Context {
	return { ...context, actor };
}

/** Opens a data folder, brought up to date, in somebody's name. */
export type OpenDataFolder = (dataFolder: string, actor: Actor) => Promise<Context>;
