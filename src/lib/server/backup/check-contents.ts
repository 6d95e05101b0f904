import { showCount } from '../../../core/weigh/units.ts';
import type { Db } from '../database/index.ts';
import { contentTotals, DamagedContentError, eachContent, unpack } from '../mail/index.ts';
import type { Context } from '../context/index.ts';

/** The result of unpacking every content. */
export interface CheckedContents {
	/** Each message's bytes once, with bytes kept raw. Shared attachments are checked too. */
	messages: number;
	/** Their bytes as received, and as stored. */
	bytes: number;
	storedBytes: number;
	/** Contents whose bytes differ from those received. */
	damaged: number[];
}

/** Unpacks every content and compares its SHA-256 with the stored one. */
export async function checkContents(
	db: Db,
	{ signal, report }: Pick<Context, 'signal' | 'report'>
): Promise<CheckedContents> {
	const totals = await contentTotals(db);
	const found: CheckedContents = { messages: 0, bytes: 0, storedBytes: totals.storedBytes, damaged: [] };
	let checked = 0;
	for await (const contents of eachContent(db)) {
		if (signal.aborted) break;
		for (const content of contents) {
			checked++;
			if (content.stands_alone) {
				found.messages++;
				found.bytes += content.raw_bytes;
			}
			try {
				await unpack(db, content);
			} catch (error) {
				if (!(error instanceof DamagedContentError)) throw error;
				found.damaged.push(content.id);
			}
		}
		report({ done: checked, total: totals.contents, note: `${showCount(checked)} contents checked` });
	}
	return found;
}
