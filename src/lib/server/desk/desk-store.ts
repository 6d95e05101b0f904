import type { CalendarDate } from '../../../core/calendar.ts';
import { change, type Db, inList, row, rows, sql } from '../database/index.ts';

/** A decision that was made at the desk. */
export interface DeskDecision {
	id: number;
	itemId: number;
	subject: string;
	decision: string;
	docketId: number;
}

/** Notes what was decided on messages at the desk, each with its sender. */
export async function noteDeskDecision(
	db: Db,
	made: {
		itemIds: readonly number[];
		personId: number | null;
		decision: string;
		options: unknown;
		docketId: number;
		at: Date;
	}
): Promise<void> {
	await change(
		db,
		sql`INSERT INTO desk_decision (mailbox_id, person_id, item_id, correspondent_id, decision, options, docket_id, decided_at)
		 SELECT mailbox_id, ${made.personId}, id, correspondent_id, ${made.decision}, ${JSON.stringify(made.options)}, ${made.docketId}, ${made.at.toISOString()}
		 FROM item WHERE id IN ${inList(made.itemIds)}`
	);
}

/** A person's last decisions at the desk of some mailboxes that can still be taken back, the newest first. */
export async function lastDeskDecisions(
	db: Db,
	mailboxIds: readonly number[],
	personId: number | null,
	limit: number
): Promise<DeskDecision[]> {
	return rows(
		db,
		sql`SELECT desk_decision.id, item_id AS itemId, message.subject, decision, desk_decision.docket_id AS docketId
		 FROM desk_decision JOIN docket ON docket.id = desk_decision.docket_id AND docket.state = 'carried-out'
			JOIN item ON item.id = item_id JOIN message ON message.id = item.message_id
		 WHERE person_id IS ${personId} AND desk_decision.mailbox_id IN ${inList(mailboxIds)} ORDER BY desk_decision.id DESC LIMIT ${limit}`
	);
}

/** The last decisions on other messages of a message's sender in its mailbox, the newest first, those not taken back. */
export async function decisionsOnSender(
	db: Db,
	itemId: number,
	limit: number
): Promise<{ decision: string; options: string }[]> {
	return rows(
		db,
		sql`SELECT decision, options FROM item JOIN desk_decision
			ON desk_decision.mailbox_id = item.mailbox_id AND desk_decision.correspondent_id = item.correspondent_id
			JOIN docket ON docket.id = desk_decision.docket_id AND docket.state = 'carried-out'
		 WHERE item.id = ${itemId} AND desk_decision.item_id <> item.id ORDER BY desk_decision.id DESC LIMIT ${limit}`
	);
}

/** The last day of the event to which a message invites. */
export async function eventOf(db: Db, itemId: number): Promise<{ eventEndsOn: CalendarDate | null } | undefined> {
	return row(
		db,
		sql`SELECT event_ends_on AS eventEndsOn
		 FROM item JOIN message ON message.id = item.message_id WHERE item.id = ${itemId}`
	);
}

/** The day on which a person looked last at which lists are new. */
export async function lastListLook(db: Db, mailboxId: number, person: string): Promise<CalendarDate | undefined> {
	return (await db('list_look').where({ mailbox_id: mailboxId, person }).first('looked_on'))?.looked_on;
}

/** Notes that a person looked at which lists are new. */
export async function putListLook(db: Db, mailboxId: number, person: string, on: CalendarDate): Promise<void> {
	await db('list_look')
		.insert({ mailbox_id: mailboxId, person, looked_on: on })
		.onConflict(['mailbox_id', 'person'])
		.merge(['looked_on']);
}

/** The names of the lists whose first mail came to a mailbox after a day. */
export async function listsSince(db: Db, mailboxId: number, day: CalendarDate): Promise<string[]> {
	const found = await rows<{ name: string }>(
		db,
		// the first date of each list is looked up in the index, not read from all of its mail
		sql`SELECT CASE list.name WHEN '' THEN identifier ELSE list.name END AS name FROM list
		 WHERE (SELECT min(received_on) FROM item WHERE mailbox_id = ${mailboxId} AND item.list_id = list.id AND date_in_doubt = 0) > ${day}
		 ORDER BY 1`
	);
	return found.map(({ name }) => name);
}
