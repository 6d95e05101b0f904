import type { DecisionOptions } from '../../../../core/docket/decision.ts';
import { readTerms } from '../../../../core/retention/terms.ts';
import type { Db } from '../../database/index.ts';
import { type ItemWork, putLineOptions, valueChange } from '../../docket/index.ts';
import { Refusal } from '../../refusal.ts';
import { beginRetention, ensurePeriod, findSeries, requireAllowed, retentionOfSeries } from '../../standing/index.ts';

async function requireSeries(db: Db, code: string): Promise<number> {
	const known = await findSeries(db, code);
	if (!known || known.removedAt !== null)
		throw new Refusal('bad-input', `There is no series ${code}. Nothing was done.`);
	return known.id;
}

/* The series or period of a line; null: the folder's again. */
async function given(db: Db, { series, terms }: DecisionOptions): Promise<number | null> {
	if (terms !== undefined) return ensurePeriod(db, readTerms(terms));
	return series === undefined ? null : retentionOfSeries(db, await requireSeries(db, series));
}

/** Puts items under a series or a period of their own, or their folder's again. */
export const retain: ItemWork = {
	about: 'messages',
	async check(context, _mailbox, { options }) {
		if (options.series !== undefined) await requireSeries(context.db, options.series);
		if (options.terms !== undefined) await requireAllowed(context, options.terms);
	},
	async begin({ db }, { docket, line }) {
		await beginRetention(db, docket.mailboxId);
		await putLineOptions(db, line.id, { ...line.options, retentionId: await given(db, line.options) });
		return undefined;
	},
	change: valueChange('own_retention_id', ({ retentionId }) => retentionId ?? null, { changesDue: true })
};
