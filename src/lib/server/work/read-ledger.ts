import { type LedgerLine, listLedger } from '../stores/ledger.ts';
import type { Context } from './context.ts';

/** A page of the ledger, the newest lines first. */
export async function readLedger(
	{ db }: Context,
	input: { before?: number | undefined; limit: number }
): Promise<LedgerLine[]> {
	return listLedger(
		db,
		input.before === undefined ? { limit: input.limit } : { before: input.before, limit: input.limit }
	);
}
