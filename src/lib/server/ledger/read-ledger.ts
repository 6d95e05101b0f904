import { type LedgerLine, listLedger } from './ledger-store.ts';
import type { Context } from '../context/context.ts';

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
