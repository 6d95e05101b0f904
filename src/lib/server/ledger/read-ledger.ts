import { type LedgerLine, listLedger } from './ledger-store.ts';
import { type Context, count, defineUseCase } from '../context/index.ts';
import Joi from 'joi';

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

/** The use cases of this file. */
export const readLedgerUseCases = [
	defineUseCase({
		name: 'readLedger',
		input: () => Joi.object({ before: Joi.number(), limit: count.required() }).required(),
		thread: 'reader',
		right: 'oversight',
		run: readLedger
	})
] as const;
