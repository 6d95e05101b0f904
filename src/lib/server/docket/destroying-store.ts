import { protectionsFrom } from '../../../core/docket/decisions.ts';
import type { Db } from '../database/open.ts';
import { change, insert, row, rows } from '../database/rows.ts';
import { type Batch, type Changed, countOnce } from './carrying-out-store.ts';
import { uncountDue } from '../standing/due-store.ts';
import { ENDED } from '../mail/item-marks-store.ts';
import { HELD } from '../mail/item-marks-store.ts';
import type { Paused } from '../standing/pauses-store.ts';
import { protection } from './scopes-store.ts';
import type { Condition } from '../mail/conditions-store.ts';
import { shiftWeights } from '../mail/weights-store.ts';

/*
 * The items of a batch that are destroyed: in the bin still, or at the end of their period still, as it may have been changed
 * since they were frozen.
 */
function going({ line, after, last }: Batch, paused: Paused): Condition {
	const { scope, decision, options } = line;
	const isAgain = scope.kind === 'again';
	const still: Condition = isAgain
		? { sql: '1', bindings: [] }
		: scope.kind === 'due'
			? { sql: `item.state IN ('live', 'archived') AND ${ENDED}`, bindings: [scope.by] }
			: { sql: `item.state = 'binned'`, bindings: [] };
	// what was kept or paused since stands as well, as a docket may go on long after it was stopped
	const protectedBy = isAgain
		? []
		: protectionsFrom(decision)
				.filter((name) => name !== options.only)
				.map((name) => protection(name, paused));
	return {
		sql: `docket_item frozen CROSS JOIN item ON item.id = frozen.item_id
			WHERE frozen.line_id = ? AND frozen.item_id > ? AND frozen.item_id <= ? AND ${still.sql} ${isAgain ? '' : `AND NOT ${HELD}`}
			${protectedBy.map(({ sql }) => `AND NOT ${sql}`).join(' ')}`,
		bindings: [line.id, after, last, ...still.bindings, ...protectedBy.flatMap(({ bindings }) => bindings)]
	};
}

/** The messages that only items of this batch have: they go with their items. With the content each is stored as. */
export async function messagesToDestroy(
	db: Db,
	batch: Batch,
	paused: Paused
): Promise<{ id: number; contentId: number }[]> {
	const { sql, bindings } = going(batch, paused);
	return rows(
		db,
		`WITH going AS MATERIALIZED (SELECT item.id, item.message_id FROM ${sql})
		 SELECT DISTINCT message.id, message.content_id AS contentId FROM going JOIN message ON message.id = going.message_id
		 WHERE NOT EXISTS (SELECT 1 FROM item other WHERE other.message_id = going.message_id AND other.id NOT IN (SELECT id FROM going))`,
		bindings
	);
}

/** Begins the certificate of a docket, or goes on with it. @returns its number */
export async function ensureCertificate(
	db: Db,
	{
		docketId,
		mailbox,
		at,
		who,
		decidedBy
	}: { docketId: number; mailbox: string; at: string; who: string; decidedBy: string }
): Promise<number> {
	const known = await row<{ id: number }>(db, `SELECT id FROM certificate WHERE docket_id = ?`, [docketId]);
	return (
		known?.id ??
		insert(
			db,
			`INSERT INTO certificate (docket_id, mailbox, made_at, made_by, decided_by, messages, bytes) VALUES (?, ?, ?, ?, ?, 0, 0)`,
			[docketId, mailbox, at, who, decidedBy]
		)
	);
}

/**
 * Destroys the items of a batch: the items, the messages that no other item has, and the contents that nothing needs any
 * more (invariant 12). Their words have to be out of the index by then. Belongs into one transaction with that.
 *
 * @param messages of {@link messagesToDestroy}
 */
export async function destroyItems(
	db: Db,
	batch: Batch,
	messages: readonly { id: number; contentId: number }[],
	{
		mailboxId,
		certificateId,
		keepsSubjects,
		paused
	}: { mailboxId: number; certificateId: number; keepsSubjects: boolean; paused: Paused }
): Promise<Changed> {
	const { sql: from, bindings: range } = going(batch, paused);
	const messageIds = JSON.stringify(messages.map(({ id }) => id));
	await change(
		db,
		`INSERT INTO certificate_item (certificate_id, item_id, sha256, bytes, received_on, content_gone, due_on, series_id, version,
			terms, sender, subject, binned_on)
		 SELECT ?, item.id, content.sha256, item.bytes, item.received_on, item.message_id IN (SELECT value FROM json_each(?)),
			item.due_on, retention.series_id, now.version, ifnull(ifnull(retention.terms, now.terms), ''),
			${keepsSubjects ? `trim(from_name || ' <' || from_address || '>'), subject` : `'', ''`},
			CASE item.state WHEN 'binned' THEN item.binned_on END
		 FROM item JOIN message ON message.id = item.message_id JOIN content ON content.id = message.content_id
			LEFT JOIN retention ON retention.id = item.retention_id AND item.due_on IS NOT NULL
			LEFT JOIN series_version now ON now.series_id = retention.series_id AND now.version = (
				SELECT max(version) FROM series_version WHERE series_version.series_id = retention.series_id)
		 WHERE item.id IN (SELECT item.id FROM ${from})`,
		[certificateId, messageIds, ...range]
	);
	const sums = await shiftWeights(db, {
		from,
		bindings: range,
		before: { state: 'item.state', folder: 'item.folder_id' },
		after: undefined
	});
	const once = await countOnce(db, 'carry-out', batch, { sql: from, bindings: range }, sums);
	await change(db, `UPDATE certificate SET messages = messages + ?, bytes = bytes + ? WHERE id = ?`, [
		sums.messages,
		sums.bytes,
		certificateId
	]);
	await uncountDue(db, mailboxId, from, range);
	const threads = await rows<{ id: number }>(
		db,
		`SELECT DISTINCT item.thread_id AS id FROM ${from} AND item.thread_id IS NOT NULL`,
		range
	);
	const writers = await rows<{ correspondentId: number; listId: number | null }>(
		db,
		`SELECT DISTINCT item.correspondent_id AS correspondentId, item.list_id AS listId FROM ${from}`,
		range
	);
	const items = `SELECT item.id FROM ${from}`;
	await change(db, `DELETE FROM item_tag WHERE item_id IN (${items})`, range);
	if (batch.line.scope.kind === 'again') await change(db, `DELETE FROM hold_item WHERE item_id IN (${items})`, range);
	await change(
		db,
		`DELETE FROM proposal_item WHERE item_id IN (${items}) AND mailbox_id = (SELECT mailbox_id FROM docket WHERE id = ?)`,
		[...range, batch.docketId]
	);
	await change(db, `DELETE FROM item WHERE id IN (${items})`, range);
	// a thread is known by its subject, which is a word of the message
	await change(
		db,
		`DELETE FROM thread WHERE id IN (SELECT value FROM json_each(?)) AND NOT EXISTS (SELECT 1 FROM item WHERE item.thread_id = thread.id)`,
		[JSON.stringify(threads.map(({ id }) => id))]
	);
	await change(db, `DELETE FROM file_text WHERE message_id IN (SELECT value FROM json_each(?))`, [messageIds]);
	await change(db, `DELETE FROM message WHERE id IN (SELECT value FROM json_each(?))`, [messageIds]);
	const contentIds = JSON.stringify(messages.map(({ contentId }) => contentId));
	await change(db, `UPDATE import_oddity SET content_id = NULL WHERE content_id IN (SELECT value FROM json_each(?))`, [
		contentIds
	]);
	const parts = await rows<{ id: number }>(
		db,
		`SELECT DISTINCT part_id AS id FROM content_part WHERE content_id IN (SELECT value FROM json_each(?))`,
		[contentIds]
	);
	// a message may be a part of another one: then its bytes are still needed
	const unneeded = `SELECT content.id FROM json_each(?) gone CROSS JOIN content ON content.id = gone.value
		WHERE NOT EXISTS (SELECT 1 FROM content_part WHERE part_id = content.id)
			AND NOT EXISTS (SELECT 1 FROM message WHERE message.content_id = content.id)
			AND NOT EXISTS (SELECT 1 FROM import_oddity WHERE import_oddity.content_id = content.id)`;
	await change(db, `DELETE FROM content_part WHERE content_id IN (${unneeded})`, [contentIds]);
	await change(db, `DELETE FROM content WHERE id IN (${unneeded})`, [contentIds]);
	await change(db, `DELETE FROM content WHERE id IN (${unneeded})`, [JSON.stringify(parts.map(({ id }) => id))]);
	await forgetWriters(
		db,
		writers.map(({ correspondentId }) => correspondentId),
		writers.flatMap(({ listId }) => (listId === null ? [] : [listId]))
	);
	return { ...sums, once };
}

/* Whose last message went is nobody's correspondent any more: their name and address are overwritten (deleting the row would
   look through all items for who refers to it). The summaries tell, as they have a row wherever somebody has mail. Lists that were asked to stop are kept: the ledger of that is by their number. */
async function forgetWriters(db: Db, correspondents: readonly number[], lists: readonly number[]): Promise<void> {
	const hasMail = (table: string, column: string, of: string) =>
		`EXISTS (SELECT 1 FROM mailbox CROSS JOIN (SELECT 'live' AS state UNION ALL SELECT 'archived' UNION ALL SELECT 'binned') states
			JOIN ${table} weight ON weight.mailbox_id = mailbox.id AND weight.state = states.state AND weight.${column} = ${of})`;
	await change(
		db,
		`UPDATE correspondent SET address = 'destroyed ' || id, name = '' WHERE id IN (SELECT value FROM json_each(?))
			AND NOT ${hasMail('weight_by_correspondent', 'correspondent_id', 'correspondent.id')}`,
		[JSON.stringify(correspondents)]
	);
	await change(
		db,
		`UPDATE list SET identifier = 'destroyed ' || id, name = '', organisation = '' WHERE id IN (SELECT value FROM json_each(?)) AND NOT ${hasMail('weight_by_list', 'list_id', 'list.id')}
			AND NOT EXISTS (SELECT 1 FROM leaving WHERE leaving.list_id = list.id)
			AND NOT EXISTS (SELECT 1 FROM digest_list WHERE digest_list.list_id = list.id)`,
		[JSON.stringify([...new Set(lists)])]
	);
}

/** Has what was overwritten leave the log of the database as well (invariant 12). */
export async function emptyTheLog(db: Db): Promise<void> {
	await rows(db, `PRAGMA wal_checkpoint(TRUNCATE)`);
}

/** A certificate of destruction. */
export interface Certificate {
	id: number;
	docketId: number;
	mailbox: string;
	madeAt: string;
	madeBy: string;
	/** Who drafted the docket. */
	decidedBy: string;
	messages: number;
	bytes: number;
	/** Of the whole certificate, once it is closed. */
	sha256: string | null;
}

const COLUMNS = `id, docket_id AS docketId, mailbox, made_at AS madeAt, made_by AS madeBy, decided_by AS decidedBy, messages, bytes, sha256`;

/** Certificates of a mailbox by its name, or all, the newest first. */
export async function listCertificates(db: Db, mailbox: string | undefined, limit: number): Promise<Certificate[]> {
	return rows<Certificate>(
		db,
		`SELECT ${COLUMNS} FROM certificate ${mailbox === undefined ? '' : 'WHERE mailbox = ?'} ORDER BY id DESC LIMIT ?`,
		[...(mailbox === undefined ? [] : [mailbox]), limit]
	);
}

/** Notes the hash of a certificate that is closed. */
export async function putCertificateHash(db: Db, id: number, sha256: string): Promise<void> {
	await change(db, `UPDATE certificate SET sha256 = ? WHERE id = ?`, [sha256, id]);
}

/** The certificate with that number, or that of a docket. */
export async function getCertificate(
	db: Db,
	by: { id: number } | { docketId: number }
): Promise<Certificate | undefined> {
	return row<Certificate>(db, `SELECT ${COLUMNS} FROM certificate WHERE ${'id' in by ? 'id' : 'docket_id'} = ?`, [
		'id' in by ? by.id : by.docketId
	]);
}

/** What was destroyed under a certificate, message by message. */
export interface CertificateItem {
	itemId: number;
	sha256: Buffer;
	bytes: number;
	receivedOn: string | null;
	/** 0: the same bytes are still somewhere else. */
	contentGone: number;
	/** When its period had ended; null where it was deleted. */
	dueOn: string | null;
	/** When it was deleted; null where it was due, or that was not noted yet. */
	binnedOn: string | null;
	/** Empty where it was under no series. */
	series: string;
	version: number | null;
	authority: string;
	/** What it was due under; empty where it was deleted. */
	terms: string;
	/** Empty where the policy keeps the hash alone. */
	from: string;
	subject: string;
}

/** Messages of a certificate behind one of them. */
export async function certificateItems(
	db: Db,
	certificateId: number,
	after: number,
	limit: number
): Promise<CertificateItem[]> {
	return rows<CertificateItem>(
		db,
		`SELECT item_id AS itemId, sha256, bytes, received_on AS receivedOn, content_gone AS contentGone, due_on AS dueOn,
			ifnull(code, '') AS series, certificate_item.version, ifnull(authority, '') AS authority, certificate_item.terms,
			sender AS "from", subject, binned_on AS binnedOn
		 FROM certificate_item LEFT JOIN series ON series.id = certificate_item.series_id
			LEFT JOIN series_version ON series_version.series_id = certificate_item.series_id AND series_version.version = certificate_item.version
		 WHERE certificate_id = ? AND item_id > ? ORDER BY item_id LIMIT ?`,
		[certificateId, after, limit]
	);
}

/** On what messages of a certificate rest. */
export interface CertificateGround extends Pick<CertificateItem, 'series' | 'version' | 'authority' | 'terms'> {
	messages: number;
	/** Of what was deleted, the first and the last day on which that was. */
	firstBinnedOn: string | null;
	lastBinnedOn: string | null;
}

/** On what a certificate rests, each once, most messages first. */
export async function certificateGrounds(db: Db, certificateId: number): Promise<CertificateGround[]> {
	return rows(
		db,
		`SELECT ifnull(code, '') AS series, gone.version, ifnull(authority, '') AS authority, gone.terms, gone.messages,
			gone.firstBinnedOn, gone.lastBinnedOn FROM (
			SELECT series_id, version, terms, count(*) AS messages, min(binned_on) AS firstBinnedOn, max(binned_on) AS lastBinnedOn FROM certificate_item WHERE certificate_id = ? GROUP BY 1, 2, 3
		 ) gone LEFT JOIN series ON series.id = gone.series_id
			LEFT JOIN series_version ON series_version.series_id = gone.series_id AND series_version.version = gone.version
		 ORDER BY gone.messages DESC`,
		[certificateId]
	);
}

/** When something was destroyed last. */
export async function lastDestruction(db: Db): Promise<string | undefined> {
	return (await row<{ at: string | null }>(db, `SELECT max(made_at) AS at FROM certificate`))?.at ?? undefined;
}

/** An item that was destroyed, by its number and the hash of its bytes. */
export interface Destroyed {
	itemId: number;
	/** In hexadecimal digits. */
	sha256: string;
}

/** All that was destroyed, by the certificates. */
export async function allDestroyed(db: Db): Promise<Destroyed[]> {
	return rows<Destroyed>(
		db,
		`SELECT item_id AS itemId, lower(hex(sha256)) AS sha256 FROM certificate_item ORDER BY item_id`
	);
}

/** Which of some destroyed items are there (again), by mailbox: an older state of the data has come back. */
export async function stillThere(
	db: Db,
	destroyed: readonly Destroyed[]
): Promise<{ id: number; mailboxId: number }[]> {
	return rows(
		db,
		`SELECT item.id, item.mailbox_id AS mailboxId FROM json_each(?) gone CROSS JOIN item ON item.id = gone.value ->> 'itemId'
			JOIN message ON message.id = item.message_id JOIN content ON content.id = message.content_id
		 WHERE lower(hex(content.sha256)) = gone.value ->> 'sha256' ORDER BY item.id`,
		[JSON.stringify(destroyed)]
	);
}
