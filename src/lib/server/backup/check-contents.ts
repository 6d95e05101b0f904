import { showCount } from '../../../core/weigh/units.ts';
import type { Db, Range } from '../database/index.ts';
import {
	contentsIn,
	contentTotals,
	DamagedContentError,
	highestContent,
	highestUsedContent,
	readContent,
	unpack,
	usedContents
} from '../mail/index.ts';
import type { Context } from '../context/index.ts';
import { readableRanges, unlessBroken } from './readable-ranges.ts';

/** The result of unpacking every content. */
export interface CheckedContents {
	/** Contents that were unpacked or found damaged, shared attachments among them. */
	contents: number;
	/** Each message's bytes once, with bytes kept raw. */
	messages: number;
	/** Their bytes as received, and as stored. */
	bytes: number;
	storedBytes: number;
	/** Contents whose bytes differ from those received, or cannot be read. */
	damaged: number[];
}

async function stillDamaged(db: Db, ids: readonly number[]): Promise<number[]> {
	const damaged: number[] = [];
	for (const id of ids)
		await readContent(db, id).catch((error: unknown) => {
			if (!(error instanceof DamagedContentError)) throw error;
			damaged.push(id);
		});
	return damaged;
}

/* Numbers looked at together. */
const AT_ONCE = 500;

/**
 * Unpacks every content and compares its SHA-256 with the stored one; goes on behind what cannot be read.
 *
 * @param range only contents with these numbers
 */
export async function checkContents(
	db: Db,
	{ signal, report }: Pick<Context, 'signal' | 'report'>,
	range?: Range
): Promise<CheckedContents> {
	const found: CheckedContents = { contents: 0, messages: 0, bytes: 0, storedBytes: 0, damaged: [] };
	const { contents: total, storedBytes } = await unlessBroken(contentTotals(db), { contents: 0, storedBytes: 0 });
	found.storedBytes = storedBytes;
	const unreadable: number[] = [];
	const all = range ?? {
		from: 1,
		to: Math.max(await unlessBroken(highestContent(db), 0), await unlessBroken(highestUsedContent(db), 0))
	};
	const check = async (part: Range) => {
		const here: Omit<CheckedContents, 'storedBytes'> = { contents: 0, messages: 0, bytes: 0, damaged: [] };
		for await (const contents of contentsIn(db, part)) {
			if (signal.aborted) break;
			for (const content of contents) {
				here.contents++;
				if (content.stands_alone) {
					here.messages++;
					here.bytes += content.raw_bytes;
				}
				try {
					await unpack(db, content);
				} catch (error) {
					if (!(error instanceof DamagedContentError)) throw error;
					here.damaged.push(content.id);
				}
			}
		}
		return here;
	};
	for await (const part of readableRanges(all, AT_ONCE, check, (id) => unreadable.push(id))) {
		found.contents += part.contents;
		found.messages += part.messages;
		found.bytes += part.bytes;
		found.damaged.push(...part.damaged);
		if (signal.aborted) break;
		report({ done: found.contents, total, note: `${showCount(found.contents)} contents checked` });
	}
	// one that was destroyed while it was read is not damaged: it is read once more
	found.damaged = await stillDamaged(db, found.damaged);
	// a number in a broken page may never have been used
	const used = await usedContents(db, unreadable);
	found.contents += used.length;
	found.damaged = [...found.damaged, ...used].sort((a, b) => a - b);
	return found;
}
