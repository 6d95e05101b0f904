import { readPeriod, periodEnd, periodWords } from '../../../core/retention/periods.ts';
import { readTerms } from '../../../core/retention/terms.ts';
import { Refusal } from '../refusal.ts';
import { getSetting } from '../database/index.ts';
import type { Context } from '../context/index.ts';

/* Compares two periods by their ends, as a month has no fixed length. */
const FROM = '2001-01-01';

/**
 * Refuses a period for single messages outside the policy's limits.
 *
 * @param terms as core/retention/terms writes them
 * @throws Refusal
 */
export async function requireAllowed({ db }: Pick<Context, 'db'>, terms: string): Promise<void> {
	const refuse = (message: string) => new Refusal('bad-input', `${message} Nothing was done.`);
	const { period, disposition } = (() => {
		try {
			return readTerms(terms);
		} catch (cause) {
			throw new Refusal('bad-input', 'That is no period. Nothing was done.', { cause });
		}
	})();
	const least = readPeriod((await getSetting(db, 'own-period-least')) ?? '');
	const most = readPeriod((await getSetting(db, 'own-period-most')) ?? '');
	if (most && (disposition === 'keep' || (period && periodEnd(FROM, period) > periodEnd(FROM, most))))
		throw refuse(`The policy lets single messages be kept for ${periodWords(most)} at most.`);
	if (least && period && periodEnd(FROM, period) < periodEnd(FROM, least))
		throw refuse(`The policy has single messages kept for ${periodWords(least)} at least.`);
}
