// Queries as people ask them.
import { matchExpression, readQuery } from '../src/core/search/query.ts';
import { row, sql } from '../src/lib/server/database/index.ts';
import type { Context } from '../src/lib/server/context/index.ts';
import { Dice } from '../demo/random.ts';

/** Ordinary queries: one to three words, from frequent to rare, with at most 10,000 hits. */
export async function ordinaryQueries(context: Context, words: readonly string[], count: number): Promise<string[]> {
	const dice = new Dice(5);
	const queries: string[] = [];
	while (queries.length < count) {
		const pick = () => words[Math.floor(words.length ** (0.35 + 0.65 * dice.next()))] ?? 'nothing';
		const text = dice.chance(0.5) ? pick() : dice.chance(0.6) ? `${pick()} ${pick()}` : `${pick()} or ${pick()}`;
		const found = await row<{ n: number }>(
			context.db,
			sql`SELECT count(*) AS n FROM (SELECT 1 FROM words WHERE words MATCH ${matchExpression(readQuery(text)) ?? null} LIMIT 10001)`
		);
		if (found && found.n > 0 && found.n <= 10_000) queries.push(text);
	}
	return queries;
}
