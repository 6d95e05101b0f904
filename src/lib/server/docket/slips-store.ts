import type { By } from '../../../core/access/roles.ts';
import { change, type Condition, type Db, inList, rows, sql } from '../database/index.ts';

/** How many undismissed dockets stay on a person's slip. */
const MOST = 50;

const isOf = ({ personId, name }: By): Condition =>
	personId === null ? sql`slip.person_id IS NULL AND slip.who = ${name}` : sql`slip.person_id = ${personId}`;

/** Puts a docket on a person's slip; the last one is the one shown. */
export async function putOnSlip(db: Db, by: By, docketId: number): Promise<void> {
	await change(
		db,
		sql`INSERT OR REPLACE INTO slip (who, person_id, docket_id) VALUES (${by.name}, ${by.personId}, ${docketId})`
	);
	await change(
		db,
		sql`DELETE FROM slip WHERE ${isOf(by)} AND id NOT IN (SELECT id FROM slip WHERE ${isOf(by)} ORDER BY id DESC LIMIT ${MOST})`
	);
}

/** Takes a docket off a person's slip. */
export async function takeOffSlip(db: Db, by: By, docketId: number): Promise<void> {
	await change(db, sql`DELETE FROM slip WHERE ${isOf(by)} AND docket_id = ${docketId}`);
}

/** Numbers of the drafts that a person's slips show, one a mailbox. */
export async function slipDrafts(db: Db, by: By, mailboxIds: readonly number[]): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT docket.id FROM slip JOIN docket ON docket.id = docket_id
		 WHERE slip.id IN (SELECT max(slip.id) FROM slip JOIN docket ON docket.id = docket_id
			WHERE ${isOf(by)} AND mailbox_id IN ${inList(mailboxIds)} AND state <> 'dropped' GROUP BY mailbox_id)
			AND state IN ('drafted', 'carrying-out') ORDER BY docket.id`
	);
	return found.map(({ id }) => id);
}

/** Numbers of the dockets on a person's slip in a mailbox, the last one first; discarded ones are left out. */
export async function slipDockets(db: Db, by: By, mailboxId: number): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT docket_id AS id FROM slip JOIN docket ON docket.id = docket_id
		 WHERE ${isOf(by)} AND mailbox_id = ${mailboxId} AND state <> 'dropped' ORDER BY slip.id DESC`
	);
	return found.map(({ id }) => id);
}
