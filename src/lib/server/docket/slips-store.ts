import type { Db } from '../database/open.ts';
import { change, rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';

/** Dismissed by nobody, so many of a person's newest dockets stay on their slip. */
const MOST = 50;

/** Puts a docket before a person: theirs is the one that was put there last. */
export async function putOnSlip(db: Db, who: string, docketId: number): Promise<void> {
	await change(db, sql`INSERT OR REPLACE INTO slip (who, docket_id) VALUES (${who}, ${docketId})`);
	await change(
		db,
		sql`DELETE FROM slip WHERE who = ${who} AND id NOT IN (SELECT id FROM slip WHERE who = ${who} ORDER BY id DESC LIMIT ${MOST})`
	);
}

/** Takes a docket off a person's slip. */
export async function takeOffSlip(db: Db, who: string, docketId: number): Promise<void> {
	await change(db, sql`DELETE FROM slip WHERE who = ${who} AND docket_id = ${docketId}`);
}

/** Numbers of the dockets of a mailbox that a person has before them, the one put there last first; discarded ones are not among them. */
export async function slipDockets(db: Db, who: string, mailboxId: number): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT docket_id AS id FROM slip JOIN docket ON docket.id = docket_id
		 WHERE who = ${who} AND mailbox_id = ${mailboxId} AND state <> 'dropped' ORDER BY slip.id DESC`
	);
	return found.map(({ id }) => id);
}
