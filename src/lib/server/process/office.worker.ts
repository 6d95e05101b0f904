import { setTimeout } from 'node:timers/promises';
import Joi, { type Schema } from 'joi';
import { parentPort, workerData } from 'node:worker_threads';
import type { Context } from '../context/context.ts';
import { log } from '../log.ts';
import { refusalIn } from '../machine-trouble.ts';
import { Refusal } from '../refusal.ts';
import { actingAs, ENDING } from '../context/context.ts';
import { openContext } from './open-context.ts';
import { hasBrokenPages } from '../backup/check-standing.ts';
import { letWrite } from '../database/open.ts';
import { requireRight } from '../access/rights.ts';
import { KOVREL } from '../../../core/access/roles.ts';
import { beginJob, noteFollowing } from './jobs.ts';
import { Remembered } from './remembered.ts';
import { useCase } from './use-cases.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { closeReadingPool } from '../mail/reading/reading-pool.ts';
import { lowerPriority } from '../priority.ts';
import type { Answer, Asking, Beginning, Noted, Question, ThreadData } from './thread.ts';
import { type AnyUseCase } from '../context/index.ts';

/* The empty input. */
const NOTHING = Joi.any().valid(null);
const schemas = new Map<string, Schema>();

function schemaOf({ name, input }: Pick<AnyUseCase, 'name' | 'input'>): Schema {
	const schema = schemas.get(name) ?? input?.() ?? NOTHING;
	schemas.set(name, schema);
	return schema;
}

/* A thread with a database connection of its own, which runs use cases by name. */
const port = parentPort;
if (!port) throw new Error('This file is a worker thread');
const { dataFolder, readonly, nice = 0 } = workerData as ThreadData;
if (nice > 0) lowerPriority(nice);
const opened = openContext(dataFolder, { readonly, actor: KOVREL });
const remembered = new Remembered();
const running = new Map<number, AbortController>();
const underWay = new Set<Promise<void>>();

/*
 * How long running work may take to finish its step when the thread is to end; then it is interrupted like in a
 * crash.
 */
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

/* The context of a use case: with the actor, and with the input validated. */
async function entering({ id, useCase: name, input, actor, resumes = false }: Asking, signal: AbortSignal) {
	const definition = useCase(name);
	requireRight(actor, definition.right);
	const { value, error } = schemaOf(definition).validate(input, { convert: false, allowUnknown: true });
	if (error)
		throw new Refusal('bad-input', `${name} was asked for in a wrong form: ${error.message}. Nothing was done.`);
	const open = await opened;
	// another thread may have found it damaged, or whole
	if (!readonly) await letWrite(open.db, !(await hasBrokenPages(open.db)));
	await open.readClock();
	const context: Context = {
		...actingAs(open, actor),
		signal,
		resumes,
		report: (progress) => port?.postMessage({ id, progress } satisfies Answer),
		follow: async (db, next) => {
			await noteFollowing(context, db, next);
			hasNoted.add(id);
		}
	};
	return { definition, context, input: value as never };
}

/* Use cases that have enqueued a job: the caller is told after the transaction, however it ended. */
const hasNoted = new Set<number>();

async function answer(question: Asking | Beginning): Promise<void> {
	const { id } = question;
	const stop = new AbortController();
	running.set(id, stop);
	try {
		const { definition, context, input } = await entering(question, stop.signal);
		const run = () => definition.run(context, input);
		const result = await ('begins' in question
			? beginJob(context, definition, input)
			: definition.thread === 'heavy' || definition.isRemembered
				? remembered.answer(context, definition.name, input, run)
				: run());
		port?.postMessage({ id, result } satisfies Answer);
	} catch (error) {
		port?.postMessage(toAnswer(id, error));
	} finally {
		running.delete(id);
		if (hasNoted.delete(id)) port?.postMessage({ hasNoted: true } satisfies Noted);
	}
}

/* Open streams that have been read in part. */
const open = new Map<number, AsyncGenerator<Uint8Array>>();

async function* nothing(): AsyncGenerator<Uint8Array> {
	// a cancelled stream has ended
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

async function begin(question: Asking): Promise<void> {
	const { id } = question;
	try {
		const { definition, context, input } = await entering(question, new AbortController().signal);
		const stream = definition.run(context, input) as AsyncGenerator<Uint8Array>;
		open.set(id, stream);
		await give(id, stream);
	} catch (error) {
		port?.postMessage(toAnswer(id, error));
	}
}

/* In a thread, process.exit ends only the thread. */
async function end(): Promise<void> {
	for (const stop of running.values()) stop.abort(ENDING);
	const atRest = Promise.allSettled([...underWay, ...[...open.values()].map((stream) => stream.return(undefined))]);
	await Promise.race([atRest, setTimeout(LONGEST_STEP_MS)]);
	await closeParsePool();
	await closeReadingPool();
	// interrupted work still holds its connection
	await Promise.race([(await opened).db.destroy(), setTimeout(LONGEST_STEP_MS)]);
}

const close = () => void end().finally(() => process.exit());

port.on('message', (question: Question) => {
	if ('close' in question) close();
	else if ('stop' in question) running.get(question.stop)?.abort();
	else if ('next' in question) begun(give(question.next, open.get(question.next) ?? nothing()));
	else if ('cancel' in question) void open.get(question.cancel)?.return(undefined);
	else begun('streams' in question ? begin(question) : answer(question));
});
