import type { CalendarDate } from '../../../core/calendar.ts';
import type { ProposalKind } from '../../../core/likeness/proposals.ts';
import { MAIL_KINDS, traitBit } from '../../../core/message/mail-kind.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import {
	change,
	type Condition,
	type Db,
	empty,
	inList,
	insertRows,
	join,
	rows,
	type Sql,
	sql
} from '../database/index.ts';
import { type ItemRow, itemsWhere } from '../mail/index.ts';

/** A proposed item, with the reason. */
export interface ProposedItem {
	itemId: number;
	/** The message that makes it redundant. */
	betterId: number | undefined;
	reason: string;
}

/** Removes the proposals of one kind, or all. */
export async function clearProposals(db: Db, mailboxId: number, kind?: ProposalKind): Promise<void> {
	await change(
		db,
		sql`DELETE FROM proposal_item WHERE mailbox_id = ${mailboxId} ${kind ? sql`AND kind = ${kind}` : empty}`
	);
}

/** Stores proposals. */
export async function addProposals(
	db: Db,
	mailboxId: number,
	kind: ProposalKind,
	items: readonly ProposedItem[]
): Promise<void> {
	await insertRows(
		db,
		`INSERT OR IGNORE INTO proposal_item (mailbox_id, kind, item_id, better_item_id, reason)`,
		items.map(({ itemId, betterId, reason }) => [mailboxId, kind, itemId, betterId ?? null, reason])
	);
}

/** Stores when proposals were computed. */
export async function putProposalRun(db: Db, mailboxId: number, at: string): Promise<void> {
	await change(
		db,
		sql`INSERT INTO proposal_run VALUES (${mailboxId}, ${at}) ON CONFLICT (mailbox_id) DO UPDATE SET ran_at = excluded.ran_at`
	);
}

/** When proposals were last computed; undefined: never. */
export async function proposalRun(db: Db, mailboxId: number): Promise<string | undefined> {
	return (await db('proposal_run').where({ mailbox_id: mailboxId }).first({ at: 'ran_at' }))?.at;
}

/* A message that repeats another is proposed only while that one is there. */
const BETTER_IS_THERE = sql`(better_item_id IS NULL OR better_item_id IN (SELECT id FROM item WHERE state IN ('live', 'archived')))`;
/* Which mail is looked at: what may be proposed today is asked when proposals are shown. */
const openIn = (mailboxId: number) => sql`item.mailbox_id = ${mailboxId} AND item.state = 'live' AND item.kept = 0`;
/** Whether an item is proposed to be cleared for a reason that holds. */
export function isProposed(mailboxId: number, kind: ProposalKind): Condition {
	return sql`item.id IN (SELECT item_id FROM proposal_item
		WHERE mailbox_id = ${mailboxId} AND kind = ${kind} AND ${BETTER_IS_THERE})`;
}

const trait = (name: Parameters<typeof traitBit>[0]) => sql`(message.traits & ${traitBit(name)}) <> 0`;
const automatic = ['delivery-report', 'read-report', 'auto-reply'] as const;

/* A date before 1980 cannot be true (invariant 6). */
const PLAUSIBLE_FROM = 315_532_800;

/** Detectors that are one query: a condition on an item, and the reason in SQL. */
export interface PlainDetector {
	kind: ProposalKind;
	where: Condition;
	reason: Sql;
}

/** The plain detectors on a day. */
export function plainDetectors(day: {
	mailboxId: number;
	now: number;
	today: CalendarDate;
	deadBefore: CalendarDate;
	untouchedBefore: CalendarDate;
}): PlainDetector[] {
	const undoubted = sql`item.date_in_doubt = 0 AND item.received_on IS NOT NULL`;
	return [
		{
			kind: 'newsletter-unread',
			where: sql`item.mail_kind = ${MAIL_KINDS.indexOf('advertisement')} AND item.seen = 0 AND ${undoubted} AND item.received_on <= ${day.deadBefore}`,
			reason: sql`'unread since ' || item.received_on`
		},
		{
			kind: 'expired',
			where: sql`message.expires_at IS NOT NULL AND message.expires_at < ${day.now} AND message.expires_at > ifnull(message.sent_at, ${PLAUSIBLE_FROM})`,
			reason: sql`'expired on ' || date(message.expires_at, 'unixepoch')`
		},
		{
			kind: 'automatic',
			where: sql`(message.traits & ${automatic.reduce((bits, name) => bits | traitBit(name), 0)}) <> 0`,
			reason: sql`CASE ${join(
				automatic.map((name) => sql`WHEN ${trait(name)} THEN ${name.replace('-', ' ')}`),
				' '
			)} END`
		},
		{
			kind: 'calendar-past',
			where: sql`${trait('calendar-answer')} AND message.event_ends_on < ${day.today} AND message.event_ends_on >= '1980-01-01'`,
			reason: sql`'the event ended on ' || message.event_ends_on`
		},
		{
			kind: 'leftover',
			where: sql`(item.draft = 1 OR item.folder_id IN (SELECT id FROM folder WHERE role = 'drafts')) AND ${undoubted} AND item.received_on <= ${day.untouchedBefore}`,
			reason: sql`'a draft since ' || item.received_on`
		},
		{
			kind: 'never-opened',
			where: sql`item.seen = 0 AND item.answered = 0 AND item.answered_on IS NULL AND ${undoubted} AND item.received_on <= ${day.untouchedBefore}
				AND item.mail_kind <> ${MAIL_KINDS.indexOf('advertisement')}
				AND item.thread_id IN (SELECT thread_id FROM item WHERE mailbox_id = ${day.mailboxId} GROUP BY thread_id
					HAVING min(correspondent_id) = max(correspondent_id) AND max(seen IS NOT 0) = 0)`,
			reason: sql`'unread since ' || item.received_on || ', and only the sender wrote'`
		},
		{
			kind: 'largest',
			where: sql`item.bytes >= 5000000`,
			reason: sql`printf('%.1f MB', item.bytes / 1e6)`
		}
	];
}

/** Stores the findings of a plain detector. */
export async function addPlainProposals(
	db: Db,
	mailboxId: number,
	{ kind, where, reason }: PlainDetector
): Promise<void> {
	await change(
		db,
		sql`INSERT OR IGNORE INTO proposal_item (mailbox_id, kind, item_id, better_item_id, reason)
		 SELECT item.mailbox_id, ${kind}, item.id, NULL, ${reason} FROM item JOIN message ON message.id = item.message_id
		 WHERE ${openIn(mailboxId)} AND ${where}`
	);
}

/** A candidate whose bytes have to be read. */
export interface UnreadCandidate {
	id: number;
	contentId: number;
	threadId: number | null;
}

const TO_READ = {
	thanks: sql`${trait('thanks')} AND item.attachments = 0 AND message.attachments = '[]'`,
	leftover: sql`message.text_length = 0 AND message.attachments = '[]' AND message.base_subject = ''`
} as const;

/** Some candidates of a kind whose bytes have to be read, after a given one. */
export async function candidatesToRead(
	db: Db,
	mailboxId: number,
	kind: keyof typeof TO_READ,
	after: number,
	limit: number
): Promise<UnreadCandidate[]> {
	return rows<UnreadCandidate>(
		db,
		sql`SELECT item.id, message.content_id AS contentId, item.thread_id AS threadId
		 FROM item JOIN message ON message.id = item.message_id
		 WHERE ${openIn(mailboxId)} AND item.id > ${after} AND ${TO_READ[kind]} ORDER BY item.id LIMIT ${limit}`
	);
}

/** An item equal to others under one key. */
export interface Alike {
	groupKey: number;
	itemId: number;
	folder: string;
	role: string | null;
	marked: number;
	kept: number;
}

const ALIKE = sql`item.id AS itemId, folder.path AS folder, folder.role,
	item.kept, max(item.kept, item.flagged, item.pause_id IS NOT NULL, EXISTS (SELECT 1 FROM item_tag WHERE item_id = item.id)) AS marked
	FROM item JOIN folder ON folder.id = item.folder_id`;

/** Items of a mailbox with the same bytes, after a given group. */
export async function sameBytes(db: Db, mailboxId: number, after: number, limit: number): Promise<Alike[]> {
	return rows<Alike>(
		db,
		sql`WITH twice AS MATERIALIZED (SELECT message_id FROM item INDEXED BY item_by_message WHERE message_id > ${after} AND mailbox_id = ${mailboxId} AND state = 'live'
			GROUP BY message_id HAVING count(*) > 1 ORDER BY message_id LIMIT ${limit})
		 SELECT item.message_id AS groupKey, ${ALIKE} JOIN twice ON twice.message_id = item.message_id
		 WHERE item.mailbox_id = ${mailboxId} AND item.state = 'live' ORDER BY item.message_id, item.id`
	);
}

/** Some Message-IDs shared by several messages, after a given one. */
export async function sharedMessageIds(db: Db, after: string, limit: number): Promise<string[]> {
	const found = await rows<{ messageId: string }>(
		db,
		sql`SELECT message_id AS messageId FROM message WHERE message_id > ${after} GROUP BY message_id HAVING count(*) > 1
		 ORDER BY message_id LIMIT ${limit}`
	);
	return found.map(({ messageId }) => messageId);
}

/** Some messages of a mailbox with these Message-IDs and without a stored hash of the body, after a given one. */
export async function bodiesToCompare(
	db: Db,
	mailboxId: number,
	messageIds: readonly string[],
	after: number,
	limit: number
): Promise<{ id: number; contentId: number }[]> {
	return rows(
		db,
		sql`SELECT message.id, content_id AS contentId FROM message INDEXED BY message_by_message_id
		 WHERE message_id IN (SELECT value FROM json_each(${JSON.stringify(messageIds)})) AND message.id > ${after} AND body_hash IS NULL
			AND EXISTS (SELECT 1 FROM item WHERE item.message_id = message.id AND item.mailbox_id = ${mailboxId} AND item.state = 'live')
		 ORDER BY message.id LIMIT ${limit}`
	);
}

/** Stores the hashes of bodies: messages with the same hash have the same content, however they were delivered. */
export async function putBodyHashes(db: Db, hashes: readonly { id: number; hash: Buffer }[]): Promise<void> {
	for (const { id, hash } of hashes) await db('message').where({ id }).update({ body_hash: hash });
}

/** Items of a mailbox with the same Message-ID, sender, subject and body, but different bytes. */
export async function sameContent(db: Db, mailboxId: number): Promise<Alike[]> {
	return rows<Alike>(
		db,
		sql`WITH twice AS MATERIALIZED (
			SELECT min(message.id) AS first, message.message_id, message.body_hash, message.subject, message.from_address
			FROM message WHERE message.message_id <> '' AND body_hash IS NOT NULL
				AND EXISTS (SELECT 1 FROM item WHERE item.message_id = message.id AND item.mailbox_id = ${mailboxId} AND item.state = 'live')
			GROUP BY message.message_id, body_hash, message.subject, from_address HAVING count(*) > 1
		 )
		 SELECT twice.first AS groupKey, ${ALIKE} JOIN message ON message.id = item.message_id
		 JOIN twice ON twice.message_id = message.message_id AND twice.body_hash = message.body_hash
			AND twice.subject = message.subject AND twice.from_address = message.from_address
		 WHERE item.mailbox_id = ${mailboxId} AND item.state = 'live' ORDER BY twice.first, item.id`
	);
}

/** Threads of a mailbox with several live messages, after a given one. */
export async function threadsOfSeveral(db: Db, mailboxId: number, after: number, limit: number): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT thread.id FROM thread WHERE mailbox_id = ${mailboxId} AND thread.id > ${after}
			AND (SELECT count(*) FROM (SELECT 1 FROM item WHERE thread_id = thread.id AND state = 'live' LIMIT 2)) = 2
		 ORDER BY thread.id LIMIT ${limit}`
	);
	return found.map(({ id }) => id);
}

/** The open proposals of each kind that meet a condition: what a docket of all of them would take. */
export async function proposalSums(
	db: Db,
	mailboxId: number,
	proposable: Condition
): Promise<(Weight & { kind: ProposalKind })[]> {
	return rows(
		db,
		sql`SELECT kind, count(*) AS messages, sum(item.bytes) AS bytes FROM proposal_item JOIN item ON item.id = item_id
		 WHERE proposal_item.mailbox_id = ${mailboxId} AND ${proposable} AND ${BETTER_IS_THERE} GROUP BY kind ORDER BY 3 DESC`
	);
}

/** Why a message is proposed, and the message that makes it redundant. */
export interface ProposalReason {
	itemId: number;
	reason: string;
	betterId: number | null;
}

/** The reasons of some proposals of a kind. */
export async function reasonsOf(
	db: Db,
	mailboxId: number,
	kind: ProposalKind,
	ids: readonly number[]
): Promise<ProposalReason[]> {
	return rows<ProposalReason>(
		db,
		sql`SELECT item_id AS itemId, reason, better_item_id AS betterId FROM proposal_item
		 WHERE mailbox_id = ${mailboxId} AND kind = ${kind} AND item_id IN ${inList(ids)}`
	);
}

/** A proposed item in the list. */
export interface ProposedRow extends ItemRow, Omit<ProposalReason, 'itemId'> {}

/** A page of the proposals of a kind, the largest first. */
export async function proposedItems(
	db: Db,
	mailboxId: number,
	kind: ProposalKind,
	proposed: Condition,
	limit: number,
	offset: number
): Promise<{ items: ProposedRow[]; total: number }> {
	const { items, total } = await itemsWhere(
		db,
		sql`item.mailbox_id = ${mailboxId} AND ${proposed}`,
		limit,
		offset,
		sql`item.bytes DESC, item.id`
	);
	const reasons = await reasonsOf(
		db,
		mailboxId,
		kind,
		items.map(({ id }) => id)
	);
	const byItem = new Map(reasons.map(({ itemId, ...rest }) => [itemId, rest]));
	return {
		items: items.map((item) => ({ ...item, ...(byItem.get(item.id) ?? { reason: '', betterId: null }) })),
		total
	};
}
