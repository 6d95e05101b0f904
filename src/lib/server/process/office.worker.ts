import { setTimeout } from 'node:timers/promises';
import { parentPort, workerData } from 'node:worker_threads';
import type { Context } from '../context/context.ts';
import { log } from '../log.ts';
import { refusalIn } from '../machine-trouble.ts';
import { actingAs, ENDING } from '../context/context.ts';
import { openContext } from '../process/open-context.ts';
import { requireRight } from '../access/rights.ts';
import { KOVREL } from '../../../core/access/roles.ts';
import { type StreamName, streams, type UseCaseName, useCases } from './use-cases.ts';
import { closeFilesPool } from '../intake/files-pool.ts';
import { closeParsePool } from '../mail/parse-pool.ts';
import { letOthersGoFirst } from '../priority.ts';
import type { Answer, Question, ThreadData } from './thread.ts';

/* A thread with a database connection of its own, which carries out use cases by their names. */
const port = parentPort;
if (!port) throw new Error('This file is a worker thread');
const { dataFolder, readonly, nice = 0 } = workerData as ThreadData;
if (nice > 0) letOthersGoFirst(nice);
const opened = openContext(dataFolder, { readonly, actor: KOVREL });
const running = new Map<number, AbortController>();
const underWay = new Set<Promise<void>>();

/* What is running when the thread is to end has this long to come to the end of a step; then it is cut off, as by a crash. */
const LONGEST_STEP_MS = 5_000;

function begun(work: Promise<void>): void {
	underWay.add(work);
	void work.finally(() => underWay.delete(work));
}

function toAnswer(id: number, error: unknown): Answer {
	const refusal = refusalIn(error);
	if (refusal !== undefined && refusal !== error) log.error({ error }, 'the machine failed');
	if (refusal) return { id, refused: { code: refusal.code, message: refusal.message } };
	return { id, failed: error instanceof Error ? (error.stack ?? error.message) : String(error) };
}

async function answer({ id, useCase, input, actor }: Extract<Question, { useCase: string }>): Promise<void> {
	const stop = new AbortController();
	running.set(id, stop);
	try {
		requireRight(actor, useCase as UseCaseName);
		const open = await opened;
		await open.readClock();
		const context: Context = {
			...actingAs(open, actor),
			signal: stop.signal,
			report: (progress) => port?.postMessage({ id, progress } satisfies Answer)
		};
		const run = useCases[useCase as UseCaseName] as (context: Context, input: unknown) => Promise<unknown>;
		const result = await run(context, input);
		port?.postMessage({ id, result } satisfies Answer);
	} catch (error) {
		port?.postMessage(toAnswer(id, error));
	} finally {
		running.delete(id);
	}
}

/* Streams that are being read: each has given some of its bytes. */
const open = new Map<number, AsyncGenerator<Uint8Array>>();

async function* nothing(): AsyncGenerator<Uint8Array> {
	// a stream that was cancelled has no more
}

async function give(id: number, stream: AsyncGenerator<Uint8Array>): Promise<void> {
	try {
		const { value, done } = await stream.next();
		if (done) open.delete(id);
		port?.postMessage((done ? { id, result: undefined } : { id, bytes: value }) satisfies Answer);
	} catch (error) {
		open.delete(id);
		port?.postMessage(toAnswer(id, error));
	}
}

async function begin({ id, useCase, input, actor }: Extract<Question, { useCase: string }>): Promise<void> {
	try {
		requireRight(actor, useCase as StreamName);
		const stream = streams[useCase as StreamName](actingAs(await opened, actor), input as never);
		open.set(id, stream);
		await give(id, stream);
	} catch (error) {
		port?.postMessage(toAnswer(id, error));
	}
}

/* Of the thread: process.exit ends no more than that. */
async function end(): Promise<void> {
	for (const stop of running.values()) stop.abort(ENDING);
	const atRest = Promise.allSettled([...underWay, ...[...open.values()].map((stream) => stream.return(undefined))]);
	await Promise.race([atRest, setTimeout(LONGEST_STEP_MS)]);
	await closeParsePool();
	await closeFilesPool();
	// what was cut off holds its connection
	await Promise.race([(await opened).db.destroy(), setTimeout(LONGEST_STEP_MS)]);
}

const close = () => void end().finally(() => process.exit());

port.on('message', (question: Question) => {
	if ('close' in question) close();
	else if ('stop' in question) running.get(question.stop)?.abort();
	else if ('next' in question) begun(give(question.next, open.get(question.next) ?? nothing()));
	else if ('cancel' in question) void open.get(question.cancel)?.return(undefined);
	else begun(question.useCase in streams ? begin(question) : answer(question));
});
