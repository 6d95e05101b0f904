import type { Schema } from 'joi';
import type { Right } from '../../../core/access/roles.ts';
import type { JobAbout } from '../../../core/jobs/about.ts';
import type { Context } from './context.ts';

/**
 * The thread of a use case. The page's own opens no database, so that no request waits for another.
 *
 * - `reader`: questions that are answered at once, sessions among them
 * - `heavy`: questions that may scan a whole mailbox
 * - `opener`: opens mail, which may be hostile
 * - `writer`: changes, and jobs that change
 * - `checker`: jobs that read everything, and streams of bytes
 */
export type Thread = 'reader' | 'heavy' | 'opener' | 'writer' | 'checker';

/**
 * Jobs of one lane run one after the other; those of different lanes share their thread, transaction by transaction.
 */
export type Lane = 'import' | 'docket' | 'check' | 'look' | 'outside' | 'files';

/** What is recorded when somebody sees mail: "read" a message, "kept a copy of" one, "found words in" some. */
export type Look = 'read' | 'opened a file of' | 'kept a copy of' | 'found words in';

/** How long work takes in the background. */
export interface Work<I> {
	lane: Lane;
	about: (context: Context, input: I) => JobAbout | Promise<JobAbout>;
}

/** An operation of Kovrel, used by a page, a command or the scheduled run. */
export interface UseCase<N extends string, T extends Thread, I, O, J extends boolean> {
	name: N;
	/** Its input; undefined: none. Built at first use: most commands need only one. */
	input?: () => Schema;
	thread: T;
	/** Who may use it. A colleague's reach is checked by the use case itself (access/reach). */
	right: Right;
	/**
	 * Its answer is a message, or a part of one, with the input's `id`, or parts of several, by their ids: that is recorded
	 * before it is shown.
	 */
	look?: Look;
	/** Whether its last answers are given again while nothing has changed, as those of the heavy thread are. */
	isRemembered?: boolean;
	run: (context: Context, input: I) => O;
	/** Whether it is long work, done in the background. */
	isJob: J;
	job?: Work<I>;
}

type Defined<N extends string, T extends Thread, I, O> = Omit<UseCase<N, T, I, O, boolean>, 'isJob' | 'job'>;

/** Any use case. */
export type AnyUseCase = UseCase<string, Thread, never, unknown, boolean>;

/** Defines a use case that is answered at once, beside its function. */
export function defineUseCase<const N extends string, const T extends Thread, I, O>(
	defined: Defined<N, T, I, O>
): UseCase<N, T, I, O, false> {
	return { ...defined, isJob: false };
}

/** Defines a use case that runs in the background. */
export function defineJob<const N extends string, const T extends Thread, I, O>(
	defined: Defined<N, T, I, O>,
	job: Work<NoInfer<I>>
): UseCase<N, T, I, O, true> {
	return { ...defined, isJob: true, job };
}
