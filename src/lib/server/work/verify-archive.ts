import { showCount } from '../../../core/weigh/units.ts';
import { contentTotals, DamagedContentError, eachContent, unpack } from '../stores/contents.ts';
import { checkLedger } from '../stores/ledger.ts';
import { compareWeights } from '../stores/weights.ts';
import { compareDue } from '../stores/due.ts';
import { differingCertificates } from './certificates.ts';
import type { Context } from './context.ts';

/** What a check of everything found. */
export interface VerifyResult {
	ok: boolean;
	/** Each message's bytes once, with what was kept raw. Attachments that are kept apart are checked too. */
	messages: number;
	/** Their bytes as received, and as stored. */
	bytes: number;
	storedBytes: number;
	/** Contents whose bytes are not what came in. */
	damaged: number[];
	ledger: { lines: number; ok: boolean; brokenAt: number | undefined; head: string };
	/** Rows of the summaries that differ from a fresh count. */
	weightsDiffering: number;
	/** Dockets whose certificates are not what the ledger says of them. */
	certificatesDiffering: number[];
	/** False where it was stopped on the way. */
	finished: boolean;
}

/** Unpacks every content and compares its SHA-256, computes the ledger's chain and the summaries again. Changes nothing. */
export async function verifyArchive(context: Context): Promise<VerifyResult> {
	const totals = await contentTotals(context.db);
	const damaged: number[] = [];
	let checked = 0;
	let messages = 0;
	let bytes = 0;
	for await (const contents of eachContent(context.db)) {
		if (context.signal.aborted) break;
		for (const content of contents) {
			checked++;
			if (content.stands_alone) {
				messages++;
				bytes += content.raw_bytes;
			}
			try {
				await unpack(context.db, content);
			} catch (error) {
				if (!(error instanceof DamagedContentError)) throw error;
				damaged.push(content.id);
			}
		}
		context.report({ done: checked, total: totals.contents, note: `${showCount(checked)} contents checked` });
	}
	const ledger = await checkLedger(context.db);
	const weightsDiffering = (await compareWeights(context.db)) + (await compareDue(context.db));
	const certificatesDiffering = await differingCertificates(context.db);
	const finished = !context.signal.aborted;
	return {
		ok: finished && damaged.length === 0 && ledger.ok && weightsDiffering === 0 && certificatesDiffering.length === 0,
		messages,
		bytes,
		storedBytes: totals.storedBytes,
		damaged,
		ledger,
		weightsDiffering,
		certificatesDiffering,
		finished
	};
}
