import type { CalendarDate } from '../../../core/calendar.ts';
import { change, type Db, rows, sql } from '../database/index.ts';

/** That somebody looked at a message. */
export interface LookRow {
	id: number;
	itemId: number;
	who: string;
	what: string;
	at: string;
	/** From here on null where the message was destroyed since. */
	subject: string | null;
	fromName: string | null;
	fromAddress: string | null;
	receivedOn: CalendarDate | null;
	folder: string | null;
	state: string | null;
}

/** Notes a look; the same one again on the same day is none. @returns the items for which it is new */
export async function addLooks(
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

/** What was looked at in a mailbox, by others than its owner, the last first. */
export async function looksIn(
	db: Db,
	{ mailboxId, but, limit }: { mailboxId: number; but: string; limit: number }
): Promise<LookRow[]> {
	return rows<LookRow>(
		db,
		sql`SELECT look.id, item_id AS itemId, who, what, at, message.subject, message.from_name AS fromName,
			message.from_address AS fromAddress, item.received_on AS receivedOn, folder.path AS folder, item.state
		 FROM look LEFT JOIN item ON item.id = item_id LEFT JOIN message ON message.id = item.message_id
			LEFT JOIN folder ON folder.id = item.folder_id
		 WHERE look.mailbox_id = ${mailboxId} AND who <> ${but} ORDER BY look.id DESC LIMIT ${limit}`
	);
}
