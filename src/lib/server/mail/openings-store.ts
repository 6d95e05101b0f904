import type { CalendarDate } from '../../../core/calendar.ts';
import type { Look } from '../context/index.ts';
import { change, type Db, inList, rows, sql } from '../database/index.ts';

/** A record of a person opening a message. */
export interface OpeningRow {
	id: number;
	itemId: number;
	who: string;
	what: string;
	at: string;
	/** How many messages of a day's searches it stands for; 1 for a message that was opened. */
	messages: number;
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
): Promise<{ mailbox: string; folder: string; item: number }[]> {
	return rows(
		db,
		sql`SELECT mailbox.name AS mailbox, ifnull(origin.path, folder.path) AS folder, item.id AS item
		 FROM item JOIN mailbox ON mailbox.id = item.mailbox_id JOIN folder ON folder.id = item.folder_id
			LEFT JOIN folder origin ON origin.id = item.origin_folder_id
		 WHERE item.id IN (SELECT value FROM json_each(${JSON.stringify(ids)})) AND item.mailbox_id NOT IN ${inList(but)}
		 ORDER BY item.id`
	);
}

/* Of them the latest are shown; all stand in the ledger. */
const LATEST = 5_000;

/** The openings in a mailbox by people other than its owner, the latest first; what somebody's searches of a day showed is one. */
export async function openingsIn(
	db: Db,
	{ mailboxId, but, limit }: { mailboxId: number; but: string; limit: number }
): Promise<OpeningRow[]> {
	return rows<OpeningRow>(
		db,
		sql`SELECT look.id, item_id AS itemId, who, what, at, messages, message.subject, message.from_name AS fromName,
			message.from_address AS fromAddress, item.received_on AS receivedOn, folder.path AS folder, item.state
		 FROM (SELECT max(id) AS id, item_id, who, what, max(at) AS at, count(*) AS messages FROM
				(SELECT * FROM look WHERE mailbox_id = ${mailboxId} AND who <> ${but} ORDER BY id DESC LIMIT ${LATEST})
			GROUP BY who, what, "on", iif(what = ${'found words in' satisfies Look}, 0, id) ORDER BY 1 DESC LIMIT ${limit}) look
			LEFT JOIN item ON item.id = item_id LEFT JOIN message ON message.id = item.message_id
			LEFT JOIN folder ON folder.id = item.folder_id
		 ORDER BY look.id DESC`
	);
}
