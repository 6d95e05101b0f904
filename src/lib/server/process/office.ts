import path from 'node:path';
import { type Actor, KOVREL } from '../../../core/access/roles.ts';
import type { Look, Thread } from '../context/index.ts';
import { databaseFile, holdDataFolder, leaveAlone } from '../database/index.ts';
import { log } from '../log.ts';
import { prepareDataFolder } from './open-context.ts';
import { LookNotes } from './look-notes.ts';
import { JobQueue } from './queue.ts';
import { OfficeThread } from './thread.ts';
import {
	type ChangeName,
	type InputOf,
	type JobName,
	type OutputOf,
	type QuestionName,
	type StreamName,
	useCase
} from './use-cases.ts';

/** The data folder: KOVREL_DATA, else `data` in the working directory. */
export function dataFolder(): string {
	return path.resolve(process.env.KOVREL_DATA || 'data');
}

/* Questions that scan a whole mailbox take seconds: pages do not wait behind them. */
const HEAVY_NICE = 5;

/* What somebody sees in an answer: the message that was asked for, or those of which it has lines. */
function seenIn(what: Look, input: unknown, answer: unknown): InputOf<'recordOpening'> {
	const { id, query } = input as { id?: number; query?: string };
	return id === undefined ? { ids: Object.keys(answer as object).map(Number), what, query } : { ids: [id], what };
}

const OTHERS_AFTER_MS = 3_000;

/** Everything open while the server runs. */
export class Office {
	readonly dataFolder: string;
	readonly jobs: JobQueue;
	readonly #looks: LookNotes;
	readonly #threads: Record<Thread, OfficeThread>;
	readonly #release: () => void;

	/** Whether the data folder could be written to at the start: else everything only reads. */
	readonly canWrite: boolean;

	private constructor(folder: string, canWrite: boolean, release: () => void) {
		this.#release = release;
		this.dataFolder = folder;
		this.canWrite = canWrite;
		const reader = { dataFolder: folder, readonly: true };
		const writer = { dataFolder: folder, readonly: !canWrite };
		this.#threads = {
			reader: new OfficeThread(reader),
			heavy: new OfficeThread({ ...reader, nice: HEAVY_NICE }),
			opener: new OfficeThread(reader),
			writer: new OfficeThread(writer),
			checker: new OfficeThread(writer)
		};
		// two threads start twice as fast as five: the others have time until the first page is there
		this.#threads.writer.start();
		this.#threads.reader.start();
		setTimeout(() => Object.values(this.#threads).forEach((thread) => thread.start()), OTHERS_AFTER_MS).unref();
		this.jobs = new JobQueue(this.#threads);
		this.#looks = new LookNotes((look, actor) => this.change('recordOpening', look, actor));
	}

	/**
	 * Opens a data folder, and continues interrupted work: it is another server's no more, or the system has ended that.
	 *
	 * @param options.isFirst whether to create an archive if there is none
	 */
	static async open(folder: string, options: { isFirst: boolean }): Promise<Office> {
		const { isNew, canWrite } = await prepareDataFolder(folder, options);
		if (isNew) log.info({ folder }, 'a new archive was begun');
		// where nothing can be written, several servers do no harm
		const office = new Office(folder, canWrite, canWrite ? holdDataFolder(folder, new Date()) : () => {});
		if (!canWrite) {
			log.error(
				{ folder },
				'nothing can be written to the data folder: its disk is read-only or full. Reading goes on'
			);
			return office;
		}
		await office.jobs.resume();
		if (await office.ask('hasToReadAgain', undefined, KOVREL)) await office.start('rereadMail', undefined, KOVREL);
		if (await office.ask('hasUnthreaded', undefined, KOVREL)) await office.start('threadMail', undefined, KOVREL);
		if (await office.ask('filesWait', undefined, KOVREL)) await office.start('readFiles', undefined, KOVREL);
		return office;
	}

	/** Answers a question; opening a message is recorded before it is shown. @throws Refusal */
	async ask<N extends QuestionName>(name: N, input: InputOf<N>, actor: Actor): Promise<OutputOf<N>> {
		const { thread, look } = useCase(name);
		const answer = await this.#threads[thread].call(name, input, { actor });
		if (look) await this.#looks.record(seenIn(look, input, answer), actor, new Date());
		return answer;
	}

	/** Makes a change. @throws Refusal */
	change<N extends ChangeName>(name: N, input: InputOf<N>, actor: Actor): Promise<OutputOf<N>> {
		return this.#threads.writer.call(name, input, { actor });
	}

	/** Returns a stream of bytes. @throws Refusal */
	stream<N extends StreamName>(name: N, input: InputOf<N>, actor: Actor): Promise<ReadableStream<Uint8Array>> {
		return this.#threads[useCase(name).thread].stream(name, input, { actor });
	}

	/** Begins a long job. @returns its number */
	start<N extends JobName>(name: N, input: InputOf<N>, actor: Actor): Promise<number> {
		return this.jobs.start(name, input, actor);
	}

	/** Ends all threads; nothing acknowledged is lost. */
	async close(): Promise<void> {
		await this.jobs.close();
		await Promise.all(Object.values(this.#threads).map((thread) => thread.close()));
		if (this.canWrite) leaveAlone(databaseFile(this.dataFolder));
		this.#release();
	}
}

/* On globalThis, so that a reload in development does not open it twice. */
const shared = globalThis as { kovrelOffice?: Promise<Office> };

/** The process's one office. */
export function theOffice(): Promise<Office> {
	shared.kovrelOffice ??= Office.open(dataFolder(), { isFirst: process.argv.includes('--new') });
	return shared.kovrelOffice;
}

/** Closes it for good: later requests are told that it has ended. */
export async function closeOffice(): Promise<void> {
	await (await shared.kovrelOffice)?.close();
}
