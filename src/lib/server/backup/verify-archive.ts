import { checkLedger } from '../ledger/index.ts';
import { compareWeights } from '../mail/index.ts';
import { compareDue } from '../standing/index.ts';
import { differingCertificates } from '../docket/index.ts';
import { checkContents, type CheckedContents } from './check-contents.ts';
import { type Context, defineJob } from '../context/index.ts';

/** The result of a full check. */
export interface VerifyResult extends CheckedContents {
	ok: boolean;
	ledger: { lines: number; ok: boolean; brokenAt: number | undefined; head: string };
	/** Rows of the summaries that differ from a fresh count. */
	weightsDiffering: number;
	/** Dockets whose certificates differ from their hash in the ledger. */
	certificatesDiffering: number[];
	/** False if it was stopped. */
	finished: boolean;
}

/**
 * Unpacks every content and compares its SHA-256; recomputes the ledger's chain and the summaries. Changes nothing.
 */
export async function verifyArchive(context: Context): Promise<VerifyResult> {
	const { messages, bytes, storedBytes, damaged } = await checkContents(context.db, context);
	const ledger = await checkLedger(context.db);
	const weightsDiffering = (await compareWeights(context.db)) + (await compareDue(context.db));
	const certificatesDiffering = await differingCertificates(context.db);
	const finished = !context.signal.aborted;
	return {
		ok: finished && damaged.length === 0 && ledger.ok && weightsDiffering === 0 && certificatesDiffering.length === 0,
		messages,
		bytes,
		storedBytes,
		damaged,
		ledger,
		weightsDiffering,
		certificatesDiffering,
		finished
	};
}

/** The use cases of this file. */
export const verifyArchiveUseCases = [
	defineJob(
		{
			name: 'verifyArchive',
			thread: 'checker',
			right: 'administrator',
			run: verifyArchive
		},
		{ lane: 'check', about: () => ({ kind: 'verify' }) }
	)
] as const;
