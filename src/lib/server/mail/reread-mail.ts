import { READING } from '../../../core/message/summary.ts';
import { showCount } from '../../../core/weigh/units.ts';
import { type Db, getSetting, inTransaction, putSetting } from '../database/index.ts';
import { readAgainInThread } from './reading/parse-pool.ts';
import { Refusal } from '../refusal.ts';
import { DamagedContentError, type ReadContent, readContents } from './contents-store.ts';
import {
	anotherReadingIsIndexed,
	countToReadAgain,
	emptyWords,
	markAsRead,
	messagesToReadAgain,
	putReadAgain,
	putWords,
	type ReadMessage
} from './messages-store.ts';
import { type Context, defineJob, defineUseCase } from '../context/index.ts';

interface StoredMessage {
	id: number;
	contentId: number;
}

/* Messages that are read again in a transaction of their own. */
const AT_ONCE = 200;
/* Bundles being read while the caller works on the one before. */
const AHEAD = 2;

/**
 * Reads stored messages like an import, some at a time and the next ones meanwhile; those that cannot be read are left
 * out.
 *
 * @throws DamagedContentError if the bytes of one differ from those received
 */
export async function* readStored({ db }: Context, messages: readonly StoredMessage[]): AsyncGenerator<ReadMessage[]> {
	const idOf = new Map(messages.map(({ id, contentId }) => [contentId, id]));
	const bundleOf = async (contents: readonly ReadContent[]): Promise<ReadMessage[]> => {
		const found = await readAgainInThread(contents.map(({ bytes }) => bytes ?? new Uint8Array()));
		return contents.flatMap(({ id }, at) => {
			const read = found[at];
			return read ? [{ id: idOf.get(id) as number, read }] : [];
		});
	};
	const reading: Promise<ReadMessage[]>[] = [];
	for await (const contents of readContents(db, [...idOf.keys()])) {
		const damage = contents.find((content) => content.damage)?.damage;
		if (damage) throw damage;
		const bundle = bundleOf(contents);
		// its error is thrown in its turn, if the caller still wants it
		bundle.catch(() => {});
		reading.push(bundle);
		if (reading.length > AHEAD) yield await (reading.shift() as Promise<ReadMessage[]>);
	}
	for (const bundle of reading) yield await bundle;
}

/**
 * Checks that no mail has to be read again. @throws Refusal if it has: its words could not be removed from the index
 */
export async function requireReadAsNow({ db }: Context): Promise<void> {
	const waiting = await countToReadAgain(db);
	if (waiting > 0)
		throw new Refusal(
			'not-possible',
			`${showCount(waiting)} messages were read by an earlier Kovrel and have to be read again before anything can be destroyed ("kovrel reread"). Nothing was done.`
		);
}

/**
 * Reads again what an earlier version has read: everything but the bytes is computed anew. Until it is done, a search
 * finds only mail that has been read again.
 */
export async function rereadMail(context: Context): Promise<{ messages: number; finished: boolean }> {
	const waiting = await countToReadAgain(context.db);
	if (waiting > 0)
		await inTransaction(context.db, async (db) => {
			await putSetting(db, 'reading-again', 'yes');
			if (await anotherReadingIsIndexed(db)) await emptyWords(db);
		});
	const done = waiting === 0 ? { messages: 0, finished: true } : await readAllAgain(context, putReadAgain);
	if (done.finished)
		await inTransaction(context.db, async (db) => {
			await putSetting(db, 'reading', String(READING));
			await putSetting(db, 'reading-again', '');
			if (done.messages > 0)
				await context.follow(db, { useCase: 'threadMail', input: undefined, about: { kind: 'threads' }, once: true });
		});
	return done;
}

/** Whether stored mail has to be read again, as after an update that reads it better. Looks at no message. */
async function hasToReadAgain({ db }: Context): Promise<boolean> {
	return (await getSetting(db, 'reading')) !== String(READING);
}

/** Whether stored mail is being read again: searches find only a part of it until that is done. */
export async function isReadingAgain({ db }: Pick<Context, 'db'>): Promise<boolean> {
	return (await getSetting(db, 'reading-again')) === 'yes';
}

/**
 * Makes the index of words anew: every message is read again, and nothing else about it changes. Interrupted, it is
 * finished by {@link rereadMail}.
 */
export async function rebuildWords(context: Context): Promise<void> {
	await inTransaction(context.db, emptyWords);
	await readAllAgain(context, putWords);
}

type Put = (db: Db, messages: readonly ReadMessage[]) => Promise<void>;

async function readAllAgain(context: Context, put: Put): Promise<{ messages: number; finished: boolean }> {
	const whole = await countToReadAgain(context.db);
	let done = 0;
	while (!context.signal.aborted) {
		const messages = await messagesToReadAgain(context.db, AT_ONCE);
		if (messages.length === 0) break;
		await rereadSome(context, messages, put);
		done += messages.length;
		context.report({ done, total: whole, note: `${showCount(done)} messages read again` });
	}
	return { messages: done, finished: !context.signal.aborted };
}

/*
 * A damaged message must not stop the rest: verify reports it. Words that are put twice cannot all be removed again, so
 * each message is marked with its words, and those that are marked are not read once more.
 */
async function rereadSome(context: Context, messages: readonly StoredMessage[], put: Put): Promise<void> {
	const done = new Set<number>();
	const mark = (db: Db, of: readonly { id: number }[]) =>
		markAsRead(
			db,
			of.map(({ id }) => id)
		);
	try {
		for await (const read of readStored(context, messages)) {
			await inTransaction(context.db, async (db) => {
				await put(db, read);
				await mark(db, read);
			});
			for (const { id } of read) done.add(id);
		}
	} catch (error) {
		if (!(error instanceof DamagedContentError)) throw error;
		const rest = messages.filter(({ id }) => !done.has(id));
		if (messages.length > 1) for (const message of rest) await rereadSome(context, [message], put);
	}
	await inTransaction(context.db, (db) => mark(db, messages));
}

/** The use cases of this file. */
export const rereadMailUseCases = [
	defineUseCase({ name: 'hasToReadAgain', thread: 'reader', right: 'administrator', run: hasToReadAgain }),
	defineJob(
		{
			name: 'rereadMail',
			thread: 'writer',
			right: 'administrator',
			run: rereadMail
		},
		{ lane: 'import', about: () => ({ kind: 'reread' }) }
	)
] as const;
