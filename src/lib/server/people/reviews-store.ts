import type { CalendarDate } from '../../../core/calendar.ts';
import { change, type Db, empty, idOf, row, rows, sql } from '../database/index.ts';

/** A review that a mailbox's owner is asked for. */
export interface Review {
	id: number;
	mailboxId: number;
	mailbox: string;
	/** Nothing of it goes before this day. */
	until: CalendarDate;
	because: string;
	askedBy: string;
	askedOn: CalendarDate;
	/** When the owner said that they had reviewed it. */
	answeredOn: CalendarDate | null;
	endedOn: CalendarDate | null;
	messages: number;
	/** Kept, or paused beyond the day. */
	kept: number;
	/** Deleted, or given another class or period: it no longer goes as it would have. */
	changed: number;
}

const REVIEWS = sql`SELECT review.id, review.mailbox_id AS mailboxId, mailbox.name AS mailbox, review.until, review.because,
		review.asked_by AS askedBy, review.asked_on AS askedOn, review.answered_on AS answeredOn, review.ended_on AS endedOn,
		count(*) AS messages, ifnull(sum(is_kept), 0) AS kept, ifnull(sum(NOT is_kept AND is_changed), 0) AS changed
	 FROM review JOIN mailbox ON mailbox.id = review.mailbox_id JOIN (
		SELECT review_item.review_id, ifnull(item.kept = 1 OR pause.until > of.until, 0) AS is_kept,
			ifnull(item.state NOT IN ('live', 'archived') OR item.due_on IS NOT review_item.due_on
				OR item.due_action IS NOT review_item.due_action, 1) AS is_changed
		FROM review_item JOIN review of ON of.id = review_item.review_id LEFT JOIN item ON item.id = review_item.item_id
			LEFT JOIN pause ON pause.id = item.pause_id AND pause.ended_at IS NULL
	 ) reviewed ON reviewed.review_id = review.id`;

/** Reviews, the latest first; of one mailbox or all. */
export async function listReviews(db: Db, mailboxId?: number): Promise<Review[]> {
	const here = mailboxId === undefined ? empty : sql`WHERE review.mailbox_id = ${mailboxId}`;
	return rows<Review>(db, sql`${REVIEWS} ${here} GROUP BY review.id ORDER BY review.id DESC LIMIT 200`);
}

/** The open review of a mailbox on a day. */
export async function openReview(db: Db, mailboxId: number, on: CalendarDate): Promise<Review | undefined> {
	return row<Review>(
		db,
		sql`${REVIEWS} WHERE review.mailbox_id = ${mailboxId} AND review.ended_on IS NULL AND review.until > ${on}
		 GROUP BY review.id ORDER BY review.id DESC LIMIT 1`
	);
}

/** The review with that number. */
export async function getReview(db: Db, id: number): Promise<Review | undefined> {
	return row<Review>(db, sql`${REVIEWS} WHERE review.id = ${id} GROUP BY review.id`);
}

/** Stores a review of all mail of a mailbox that falls due by its day. @returns how many messages */
export async function addReview(
	db: Db,
	{
		mailboxId,
		until,
		because,
		askedBy,
		askedOn
	}: Pick<Review, 'mailboxId' | 'until' | 'because' | 'askedBy' | 'askedOn'>
): Promise<number> {
	const id = await idOf(
		db('review').insert({ mailbox_id: mailboxId, until, because, asked_by: askedBy, asked_on: askedOn })
	);
	return change(
		db,
		sql`INSERT INTO review_item (review_id, item_id, due_on, due_action) SELECT ${id}, id, due_on, due_action FROM item
		 WHERE mailbox_id = ${mailboxId} AND due_action IN ('archive', 'destroy', 'review') AND due_on <= ${until}
			AND state IN ('live', 'archived')`
	);
}

/** Notes that the owner has reviewed it, or that the review is over. */
export async function putReview(
	db: Db,
	id: number,
	values: { answered_on?: CalendarDate; ended_on?: CalendarDate }
): Promise<void> {
	await db('review').where({ id }).update(values);
}
