import { showCount } from '../../../core/weigh/units.ts';
import { inTransaction } from '../database/index.ts';
import {
	countFileTexts,
	DamagedContentError,
	deleteWords,
	filesToRead,
	hasFilesToRead,
	inTheIndex,
	putFileTexts,
	putWords,
	READ_AT_ONCE,
	readApart,
	readContent,
	ReadingEndedError,
	type ReadMessage,
	readStored
} from '../mail/index.ts';
import { type Context, defineJob, defineUseCase } from '../context/index.ts';

/* Few at once: transactions stay short, as others may want to write. */
const AT_ONCE = 20;

/** Whether there are unread attachments. */
export async function filesWait({ db }: Context): Promise<boolean> {
	return hasFilesToRead(db);
}

/** The result of reading attachments. */
export interface FilesRead {
	messages: number;
	/** All of them, by result. */
	outcomes: Record<string, number>;
}

async function textOf({ db }: Context, message: { id: number; contentId: number }) {
	try {
		const bytes = await readContent(db, message.contentId);
		const found = bytes ? await readApart('files', bytes) : { text: '', outcome: 'nothing' as const };
		return { messageId: message.id, ...found };
	} catch (error) {
		if (error instanceof ReadingEndedError) return { messageId: message.id, text: '', outcome: error.why };
		if (!(error instanceof DamagedContentError)) throw error;
		return { messageId: message.id, text: '', outcome: 'unreadable' as const };
	}
}

/**
 * Reads the attachments of imported messages, so that the words inside them are found. It can be stopped and
 * continues where it was; until then a message is found by its other words.
 */
export async function readFiles(context: Context): Promise<FilesRead> {
	let done = 0;
	for (let after = 0; !context.signal.aborted;) {
		const waiting = await filesToRead(context.db, after, AT_ONCE);
		const texts: Awaited<ReturnType<typeof textOf>>[] = [];
		for (let at = 0; at < waiting.length && !context.signal.aborted; at += READ_AT_ONCE)
			texts.push(
				...(await Promise.all(waiting.slice(at, at + READ_AT_ONCE).map((message) => textOf(context, message))))
			);
		if (texts.length === 0) break;
		const messages = waiting.slice(0, texts.length);
		const withText = new Set(texts.filter(({ text }) => text !== '').map(({ messageId }) => messageId));
		const changed = messages.filter(({ id }) => withText.has(id));
		const read: ReadMessage[] = [];
		for await (const some of readStored(context, changed)) read.push(...some);
		await inTransaction(context.db, async (db) => {
			// the index keeps no text: the words stored before have to be given to remove them
			const there = await inTheIndex(
				db,
				messages.map(({ id }) => id)
			);
			const changing = read.filter(({ id }) => there.has(id));
			await deleteWords(db, changing);
			await putFileTexts(
				db,
				texts.filter(({ messageId }) => there.has(messageId))
			);
			await putWords(db, changing);
		});
		done += messages.length;
		after = (messages.at(-1) as { id: number }).id;
		context.report({ done, total: undefined, note: `${showCount(done)} messages with attachments looked into` });
	}
	const outcomes = await countFileTexts(context.db);
	return { messages: done, outcomes: Object.fromEntries(outcomes.map(({ outcome, messages }) => [outcome, messages])) };
}

/** The use cases of this file. */
export const readFilesUseCases = [
	defineUseCase({
		name: 'filesWait',
		thread: 'reader',
		right: 'administrator',
		run: filesWait
	}),
	defineJob(
		{
			name: 'readFiles',
			thread: 'writer',
			right: 'administrator',
			run: readFiles
		},
		{ lane: 'files', about: () => ({ kind: 'files' }) }
	)
] as const;
