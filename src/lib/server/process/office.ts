import path from 'node:path';
import { JobQueue } from './queue.ts';
import { OfficeThread } from './thread.ts';
import { type Actor, KOVREL } from '../../../core/access/roles.ts';
import { log } from '../log.ts';
import { prepareDataFolder } from '../process/open-context.ts';
import type { Look } from '../mail/looks.ts';
import { HEAVY, type HeavyName } from './heavy.ts';
import { OPENING } from './opening.ts';
import type { changes, InputOf, JobName, OutputOf, questions, StreamName, streams } from './use-cases.ts';

/** The data folder: KOVREL_DATA, else `data` in the working directory. */
export function dataFolder(): string {
	return path.resolve(process.env.KOVREL_DATA || 'data');
}

/* What may make mail due otherwise. */
const RETENTION: readonly (keyof typeof changes)[] = [
	'saveSeries',
	'importSchedule',
	'setRetention',
	'setFinancialYear',
	'liftHold',
	'renameFolder',
	'folderPerYear'
];

/* What goes through a whole mailbox takes seconds either way: a page does not wait for it. */
const HEAVY_NICE = 5;

/* Questions whose answer is a message, or a part of one. */
const LOOKS: Partial<Record<string, Look>> = {
	readMessage: 'read',
	readHtml: 'read',
	readAttachment: 'opened a file of',
	readRaw: 'kept a copy of'
};

/** Everything that is open while the server runs. */
export class Office {
	readonly dataFolder: string;
	readonly jobs: JobQueue;
	#reader: OfficeThread;
	#heavyReader: OfficeThread;
	#opener: OfficeThread;
	#writer: OfficeThread;
	#checker: OfficeThread;

	private constructor(folder: string) {
		this.dataFolder = folder;
		this.#reader = new OfficeThread({ dataFolder: folder, readonly: true });
		this.#heavyReader = new OfficeThread({ dataFolder: folder, readonly: true, nice: HEAVY_NICE });
		this.#opener = new OfficeThread({ dataFolder: folder, readonly: true });
		this.#writer = new OfficeThread({ dataFolder: folder, readonly: false });
		this.#checker = new OfficeThread({ dataFolder: folder, readonly: false });
		this.jobs = new JobQueue({ writer: this.#writer, checker: this.#checker });
	}

	/**
	 * Opens a data folder, and goes on with what was cut off.
	 *
	 * @param options.isFirst whether a new archive is begun where there is none
	 */
	static async open(folder: string, options: { isFirst: boolean }): Promise<Office> {
		if ((await prepareDataFolder(folder, options)).isNew) log.info({ folder }, 'a new archive was begun');
		const office = new Office(folder);
		await office.jobs.resume();
		await office.jobs.lookIntoFiles(KOVREL);
		return office;
	}

	/** Asks a question; that somebody looked at a message is noted before it is shown. @throws Refusal */
	async ask<N extends keyof typeof questions | HeavyName>(
		name: N,
		input: InputOf<N>,
		actor: Actor
	): Promise<OutputOf<N>> {
		const answer = await this.#answering(name).call(name, input, { actor });
		const look = LOOKS[name];
		if (look) await this.change('noteLook', { id: (input as unknown as { id: number }).id, what: look }, actor);
		return answer;
	}

	/* Sessions are answered by the reader alone: what may take long, or reads mail, goes to others. */
	#answering(name: string): OfficeThread {
		if ((HEAVY as readonly string[]).includes(name)) return this.#heavyReader;
		return (OPENING as readonly string[]).includes(name) ? this.#opener : this.#reader;
	}

	/** Has something changed. @throws Refusal */
	async change<N extends keyof typeof changes>(name: N, input: InputOf<N>, actor: Actor): Promise<OutputOf<N>> {
		const done = await this.#writer.call(name, input, { actor });
		// in a large mailbox, other due dates take their time
		if (RETENTION.includes(name) && (await this.ask('isBeingAppliedSomewhere', undefined, actor)))
			await this.start('recalculateDue', undefined, 'Due dates after a change of retention', actor);
		return done;
	}

	/** Has a stream of bytes made. @throws Refusal */
	stream<N extends StreamName>(
		name: N,
		input: Parameters<(typeof streams)[N]>[1],
		actor: Actor
	): Promise<ReadableStream<Uint8Array>> {
		return this.#checker.stream(name, input, { actor });
	}

	/** Begins long work. @returns the number of the job */
	start<N extends JobName>(name: N, input: InputOf<N>, label: string, actor: Actor): Promise<number> {
		return this.jobs.start(name, input, label, actor);
	}

	/** Ends all threads; nothing that was acknowledged is lost. */
	async close(): Promise<void> {
		await this.jobs.close();
		await Promise.all(
			[this.#reader, this.#heavyReader, this.#opener, this.#writer, this.#checker].map((thread) => thread.close())
		);
	}
}

/* On globalThis, so that a reload in development does not open everything twice. */
const shared = globalThis as { kovrelOffice?: Promise<Office> };

/** The one office of this process. */
export function theOffice(): Promise<Office> {
	shared.kovrelOffice ??= Office.open(dataFolder(), { isFirst: process.argv.includes('--new') });
	return shared.kovrelOffice;
}

/** Closes it, where it was opened; it is not opened again: whatever asks it then is told that it has ended. */
export async function closeOffice(): Promise<void> {
	await (await shared.kovrelOffice)?.close();
}
