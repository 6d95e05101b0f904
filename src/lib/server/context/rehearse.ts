import { inTransaction } from '../database/index.ts';
import type { Context } from './context.ts';

class Rehearsed extends Error {}

/**
 * Runs a function in a transaction and rolls it back: the answer tells what would happen.
 *
 * @throws whatever `work` throws
 */
export async function rehearse<T>(context: Context, work: (context: Context) => Promise<T>): Promise<T> {
	const answers: T[] = [];
	try {
		await inTransaction(context.db, async (db) => {
			answers.push(await work({ ...context, db }));
			throw new Rehearsed();
		});
	} catch (error) {
		if (!(error instanceof Rehearsed)) throw error;
	}
	return answers[0] as T;
}
