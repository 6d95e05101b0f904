import { type Db, idOf, row, rows, sql } from '../database/index.ts';

/** Begins or continues a docket's certificate. @returns its number */
export async function ensureCertificate(
	db: Db,
	{
		docketId,
		mailbox,
		at,
		who,
		decidedBy,
		reach
	}: { docketId: number; mailbox: string; at: string; who: string; decidedBy: string; reach: string }
): Promise<number> {
	const known = await db('certificate').where({ docket_id: docketId }).first('id');
	return (
		known?.id ??
		idOf(
			db('certificate').insert({
				docket_id: docketId,
				mailbox,
				made_at: at,
				made_by: who,
				decided_by: decidedBy,
				reach,
				messages: 0,
				bytes: 0
			})
		)
	);
}

/** A certificate of destruction. */
export interface Certificate {
	id: number;
	docketId: number;
	mailbox: string;
	madeAt: string;
	madeBy: string;
	/** The person who drafted the docket. */
	decidedBy: string;
	messages: number;
	bytes: number;
	/** What it reached beside this archive; empty: there was nothing else. */
	reach: string;
	/** The hash of the whole certificate, once it is closed. */
	sha256: string | null;
}

const COLUMNS = {
	id: 'id',
	docketId: 'docket_id',
	mailbox: 'mailbox',
	madeAt: 'made_at',
	madeBy: 'made_by',
	decidedBy: 'decided_by',
	messages: 'messages',
	bytes: 'bytes',
	reach: 'reach',
	sha256: 'sha256'
} as const;

/** Certificates of a mailbox by its name, or all, the newest first. */
export async function listCertificates(db: Db, mailbox: string | undefined, limit: number): Promise<Certificate[]> {
	return db('certificate')
		.where(mailbox === undefined ? {} : { mailbox })
		.orderBy('id', 'desc')
		.limit(limit)
		.select(COLUMNS);
}

/** Stores the hash of a closed certificate. */
export async function putCertificateHash(db: Db, id: number, sha256: string): Promise<void> {
	await db('certificate').where({ id }).update({ sha256 });
}

/** The certificate with that number, or that of a docket. */
export async function getCertificate(
	db: Db,
	by: { id: number } | { docketId: number }
): Promise<Certificate | undefined> {
	return db('certificate')
		.where('id' in by ? { id: by.id } : { docket_id: by.docketId })
		.first(COLUMNS);
}

/** A destroyed message on a certificate. */
export interface CertificateItem {
	itemId: number;
	sha256: Buffer;
	bytes: number;
	receivedOn: string | null;
	/** 0: another place still has the same bytes. */
	contentGone: number;
	/** When its period ended; null if it was deleted. */
	dueOn: string | null;
	/** When it was deleted; null if it was due, or the date was not stored yet. */
	binnedOn: string | null;
	/** Empty without a series. */
	series: string;
	version: number | null;
	authority: string;
	/** The terms it was due under; empty if it was deleted. */
	terms: string;
	/** Empty if the policy keeps the hash alone. */
	from: string;
	subject: string;
}

/** A page of a certificate's messages, after one of them. */
export async function certificateItems(
	db: Db,
	certificateId: number,
	after: number,
	limit: number
): Promise<CertificateItem[]> {
	return rows<CertificateItem>(
		db,
		sql`SELECT item_id AS itemId, sha256, bytes, received_on AS receivedOn, content_gone AS contentGone, due_on AS dueOn,
			ifnull(code, '') AS series, certificate_item.version, ifnull(authority, '') AS authority, certificate_item.terms,
			sender AS "from", subject, binned_on AS binnedOn
		 FROM certificate_item LEFT JOIN series ON series.id = certificate_item.series_id
			LEFT JOIN series_version ON series_version.series_id = certificate_item.series_id AND series_version.version = certificate_item.version
		 WHERE certificate_id = ${certificateId} AND item_id > ${after} ORDER BY item_id LIMIT ${limit}`
	);
}

/** The basis of the destruction of some messages. */
export interface CertificateGround extends Pick<CertificateItem, 'series' | 'version' | 'authority' | 'terms'> {
	messages: number;
	/** For deleted messages, the first and last day of deletion. */
	firstBinnedOn: string | null;
	lastBinnedOn: string | null;
}

/** All bases of a certificate, each once, most messages first. */
export async function certificateGrounds(db: Db, certificateId: number): Promise<CertificateGround[]> {
	return rows(
		db,
		sql`SELECT ifnull(code, '') AS series, gone.version, ifnull(authority, '') AS authority, gone.terms, gone.messages,
			gone.firstBinnedOn, gone.lastBinnedOn FROM (
			SELECT series_id, version, terms, count(*) AS messages, min(binned_on) AS firstBinnedOn, max(binned_on) AS lastBinnedOn FROM certificate_item WHERE certificate_id = ${certificateId} GROUP BY 1, 2, 3
		 ) gone LEFT JOIN series ON series.id = gone.series_id
			LEFT JOIN series_version ON series_version.series_id = gone.series_id AND series_version.version = gone.version
		 ORDER BY gone.messages DESC`
	);
}

/** The instant of the last destruction. */
export async function lastDestruction(db: Db): Promise<string | undefined> {
	return (await row<{ at: string | null }>(db, sql`SELECT max(made_at) AS at FROM certificate`))?.at ?? undefined;
}

/** How many items were destroyed since an instant (ISO 8601). */
export async function countDestroyedSince(db: Db, since: string): Promise<number> {
	const found = await row<{ n: number }>(
		db,
		sql`SELECT count(*) AS n FROM certificate JOIN certificate_item ON certificate_id = certificate.id WHERE made_at > ${since}`
	);
	return found?.n ?? 0;
}

/** A destroyed item, by its number and the hash of its bytes. */
export interface Destroyed {
	itemId: number;
	/** In hexadecimal digits. */
	sha256: string;
}

/** All destroyed items, by the certificates. */
export async function allDestroyed(db: Db): Promise<Destroyed[]> {
	return rows<Destroyed>(
		db,
		sql`SELECT item_id AS itemId, lower(hex(sha256)) AS sha256 FROM certificate_item ORDER BY item_id`
	);
}

/** Destroyed items that exist again, by mailbox: an older state of the data was restored. */
export async function destroyedItemsPresent(
	db: Db,
	destroyed: readonly Destroyed[]
): Promise<{ id: number; mailboxId: number }[]> {
	return rows(
		db,
		sql`SELECT item.id, item.mailbox_id AS mailboxId FROM json_each(${JSON.stringify(destroyed)}) gone CROSS JOIN item ON item.id = gone.value ->> 'itemId'
			JOIN message ON message.id = item.message_id JOIN content ON content.id = message.content_id
		 WHERE lower(hex(content.sha256)) = gone.value ->> 'sha256' ORDER BY item.id`
	);
}
