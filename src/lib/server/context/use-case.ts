import type { Schema } from 'joi';
import type { Right } from '../../../core/access/roles.ts';
import type { JobAbout } from '../../../core/jobs/about.ts';
import type { Context } from './context.ts';

/**
 * The thread that does something. The page's own opens no database: nothing there can make a request wait.
 *
 * - `reader`: questions that are answered at once; sessions are among them
 * - `heavy`: questions that may go through a whole mailbox
 * - `opener`: opens mail, which may be hostile
 * - `writer`: changes, and jobs that change
 * - `checker`: jobs that read everything, and streams of bytes
 */
export type Thread = 'reader' | 'heavy' | 'opener' | 'writer' | 'checker';

/** Jobs of one lane wait for each other; those of different lanes share their thread, transaction by transaction. */
export type Lane = 'import' | 'docket' | 'check' | 'look' | 'outside' | 'files';

/** What is noted of somebody who opens a message: "read" a message, "kept a copy of" one. */
type Look = 'read' | 'opened a file of' | 'kept a copy of';

/** How long work goes on in the background. */
export interface Work<I> {
	lane: Lane;
	about: (context: Context, input: I) => JobAbout | Promise<JobAbout>;
}

/** Something that can be asked of Kovrel, or had done: by a page, a command, the night. */
export interface UseCase<N extends string, T extends Thread, I, O, J extends boolean> {
	name: N;
	/** What it is asked with; without it, nothing. Made when it is first asked: a command needs none of them. */
	input?: () => Schema;
	thread: T;
	/** Who may ask for it. How far a colleague reaches is asked by the use case itself (access/reach). */
	right: Right;
	/** Its answer is a message, or a part of one, whose number is the input's `id`: that is noted before it is shown. */
	look?: Look;
	run: (context: Context, input: I) => O;
	/** Whether it is long work, which goes on in the background. */
	isJob: J;
	job?: Work<I>;
}

type Defined<N extends string, T extends Thread, I, O> = Omit<UseCase<N, T, I, O, boolean>, 'isJob' | 'job'>;

/** A use case, whichever it is. */
export type AnyUseCase = UseCase<string, Thread, never, unknown, boolean>;

/** Defines a use case that is answered at once: beside its function, and nowhere else. */
export function defineUseCase<const N extends string, const T extends Thread, I, O>(
	defined: Defined<N, T, I, O>
): UseCase<N, T, I, O, false> {
	return { ...defined, isJob: false };
}

/** Defines a use case that goes on in the background. */
export function defineJob<const N extends string, const T extends Thread, I, O>(
	defined: Defined<N, T, I, O>,
	job: Work<NoInfer<I>>
): UseCase<N, T, I, O, true> {
	return { ...defined, isJob: true, job };
}
