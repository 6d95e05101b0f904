import { change, type Db, row, type Sql, sql } from '../database/index.ts';

/** Whether decisions on a mailbox are carried to a server. */
async function writableSource(db: Db, mailboxId: number): Promise<number | undefined> {
	return (await db('source').where({ mailbox_id: mailboxId, writes: 1 }).first('id'))?.id;
}

/**
 * Notes that the server of a live mailbox has still to show some items as they are here; nothing for other mailboxes.
 * Runs in the transaction of the change. One item is noted once, with the docket that changed it last.
 *
 * @param items a query for the numbers of items as `id`; destroyed ones as well
 * @param places whether they changed their place, else only marks
 * @returns whether anything was noted
 */
export async function noteForServer(
	db: Db,
	{
		mailboxId,
		docketId,
		items,
		places,
		at
	}: { mailboxId: number; docketId: number | null; items: Sql; places: boolean; at: Date }
): Promise<boolean> {
	const sourceId = await writableSource(db, mailboxId);
	if (sourceId === undefined) return false;
	const noted = await change(
		db,
		sql`INSERT INTO outbox (source_id, item_id, docket_id, places, noted_at)
		 SELECT ${sourceId}, wanted.id, ${docketId}, ${places ? 1 : 0}, ${at.toISOString()} FROM (${items}) wanted WHERE 1
		 ON CONFLICT (source_id, item_id) DO UPDATE SET docket_id = excluded.docket_id, places = max(places, excluded.places),
			changes = changes + 1, tries = 0, trouble = NULL`
	);
	return noted > 0;
}

/** Items that a server has still to show as they are here, and those of them that it refused. */
export interface WaitingForServer {
	waiting: number;
	refused: number;
}

/** How many items of a docket wait for a server. */
export async function waitingOfDocket(db: Db, docketId: number): Promise<WaitingForServer> {
	const found = await row<WaitingForServer>(
		db,
		sql`SELECT count(*) AS waiting, count(trouble) AS refused FROM outbox WHERE docket_id = ${docketId}`
	);
	return found ?? { waiting: 0, refused: 0 };
}

/** Whether the mail server of an item has it, as far as the last pass knows; as SQL over `item`. */
export const IS_ON_SERVER = sql`EXISTS (SELECT 1 FROM source_item WHERE source_item.item_id = item.id)`;

/** Whether an item waits for its server, as SQL over `item`. */
export const WAITS = sql`item.id IN (SELECT item_id FROM outbox)`;
