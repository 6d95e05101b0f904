import type { CalendarDate } from '../../../core/calendar.ts';
import { change, type Db, inList, rows, sql } from '../database/index.ts';

/** A record of a person opening a message. */
export interface OpeningRow {
	id: number;
	/** Below 0: messages that a search of that day has found. */
	itemId: number;
	who: string;
	what: string;
	at: string;
	/** From here on null if the message was destroyed since. */
	subject: string | null;
	fromName: string | null;
	fromAddress: string | null;
	receivedOn: CalendarDate | null;
	folder: string | null;
	state: string | null;
}

/** Records the opening of messages, once a day. @returns the items for which it is new */
export async function addOpenings(
	db: Db,
	looks: { itemIds: readonly number[]; who: string; what: string; on: CalendarDate; at: string }
): Promise<number> {
	return change(
		db,
		sql`INSERT INTO look (mailbox_id, item_id, who, what, "on", at)
		 SELECT mailbox_id, id, ${looks.who}, ${looks.what}, ${looks.on}, ${looks.at} FROM item WHERE id IN (SELECT value FROM json_each(${JSON.stringify(looks.itemIds)}))
		 ON CONFLICT DO NOTHING`
	);
}

/** Where items lie, in the folder that people know, but for those of some mailboxes. */
export async function placesOf(
	db: Db,
	ids: readonly number[],
	but: readonly number[]
): Promise<{ mailboxId: number; mailbox: string; folder: string; item: number }[]> {
	return rows(
		db,
		sql`SELECT mailbox.id AS mailboxId, mailbox.name AS mailbox, ifnull(origin.path, folder.path) AS folder, item.id AS item
		 FROM item JOIN mailbox ON mailbox.id = item.mailbox_id JOIN folder ON folder.id = item.folder_id
			LEFT JOIN folder origin ON origin.id = item.origin_folder_id
		 WHERE item.id IN (SELECT value FROM json_each(${JSON.stringify(ids)})) AND item.mailbox_id NOT IN ${inList(but)}
		 ORDER BY item.id`
	);
}

/** Records that somebody has read lines of found messages in some mailboxes, once a day for each: no item has its number. */
export async function addSearch(
	db: Db,
	look: { mailboxIds: readonly number[]; who: string; what: string; on: CalendarDate; at: string }
): Promise<void> {
	await change(
		db,
		sql`INSERT INTO look (mailbox_id, item_id, who, what, "on", at)
		 SELECT value, -value, ${look.who}, ${look.what}, ${look.on}, ${look.at} FROM json_each(${JSON.stringify(look.mailboxIds)}) WHERE 1
		 ON CONFLICT DO NOTHING`
	);
}

/** The openings in a mailbox by people other than its owner, the latest first. */
export async function openingsIn(
	db: Db,
	{ mailboxId, but, limit }: { mailboxId: number; but: string; limit: number }
): Promise<OpeningRow[]> {
	return rows<OpeningRow>(
		db,
		sql`SELECT look.id, item_id AS itemId, who, what, at, message.subject, message.from_name AS fromName,
			message.from_address AS fromAddress, item.received_on AS receivedOn, folder.path AS folder, item.state
		 FROM look LEFT JOIN item ON item.id = item_id LEFT JOIN message ON message.id = item.message_id
			LEFT JOIN folder ON folder.id = item.folder_id
		 WHERE look.mailbox_id = ${mailboxId} AND who <> ${but} ORDER BY look.id DESC LIMIT ${limit}`
	);
}
