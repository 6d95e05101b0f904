import type { Db } from '../database/open.ts';
import { change } from '../database/rows.ts';
import { raw, sql } from '../database/sql.ts';
import { shiftWeights } from '../mail/weights-store.ts';

/** Recomputes the summaries from the items: for tables filled without the stores. */
export async function weighAnew(db: Db): Promise<void> {
	for (const key of ['month', 'correspondent', 'list', 'form'])
		await change(db, sql`DELETE FROM ${raw(`weight_by_${key}`)}`);
	await shiftWeights(db, {
		from: sql`item WHERE item.state <> 'destroyed'`,
		before: undefined,
		after: { state: sql`item.state`, folder: sql`item.folder_id` }
	});
}
