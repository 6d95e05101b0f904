import { change, type Db, row, sql } from '../../database/index.ts';
import {
	type Batch,
	type Changed,
	countOnce,
	type Direction,
	frozenItems,
	frozenOf,
	weighItems
} from '../batches-store.ts';
import type { Change } from '../decision-work.ts';
import { ensureTag } from '../../mail/index.ts';
import { BATCH_ITEMS } from './place-change-store.ts';

async function changeTags(db: Db, direction: Direction, batch: Batch, adds: boolean, tagId: number): Promise<Changed> {
	const someHaveIt = await row(
		db,
		sql`SELECT 1 FROM item_tag WHERE tag_id = ${tagId} AND item_id > ${batch.after} AND item_id <= ${batch.last} LIMIT 1`
	);
	// looked up one by one: far more items than the batch may have the tag
	const has = sql`EXISTS (SELECT 1 FROM item_tag WHERE item_tag.item_id = frozen.item_id AND tag_id = ${tagId})`;
	const changes = someHaveIt ? (adds ? sql`NOT ${has}` : has) : adds ? sql`1` : sql`0`;
	const from = frozenItems(batch, changes);
	const sums = await weighItems(db, from);
	const once = await countOnce(db, direction, batch, from, sums);
	const frozen = frozenOf(batch);
	await change(
		db,
		adds
			? sql`INSERT INTO item_tag (item_id, tag_id) SELECT frozen.item_id, ${tagId} FROM docket_item frozen WHERE ${frozen} ON CONFLICT DO NOTHING`
			: sql`DELETE FROM item_tag WHERE tag_id = ${tagId} AND item_id IN (SELECT frozen.item_id FROM docket_item frozen WHERE ${frozen})`
	);
	return { ...sums, once };
}

/** Adds the tag of a line to items or removes it, and reverses that. */
export function tagChange(does: 'put on' | 'take off'): Change {
	const by =
		(direction: Direction): Change['carryOut'] =>
		async ({ db }, _docket, batch) => {
			const adds = (does === 'put on') === (direction === 'carry-out');
			const { tag = '', tagId = 0 } = batch.line.options;
			const isThere = (await db('tag').where({ id: tagId }).first('id')) !== undefined;
			// the tag was removed since: it is made again for taking back
			const id = isThere || !adds ? tagId : (await ensureTag(db, tag)).id;
			return changeTags(db, direction, batch, adds, id);
		};
	return { batchItems: BATCH_ITEMS, changesDue: false, carryOut: by('carry-out'), takeBack: by('take-back') };
}
