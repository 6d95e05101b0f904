import type { TlsMode } from '../../../core/sources/server.ts';
import { type Db, idOf, rows, sql } from '../database/index.ts';

/** Where the mail of a mailbox lives: a server, and who signs in there. */
export interface Source {
	id: number;
	mailboxId: number;
	host: string;
	port: number;
	tls: TlsMode;
	/** A certificate that is trusted for this server alone (PEM). */
	certificate: string | null;
	user: string;
	auth: 'password' | 'token';
	/** Paths of folders on the server that are not followed, with those below them. */
	leftOut: string[];
	madeAt: string;
	madeBy: string;
	/** The end of the last pass that came through; ISO 8601 instants. */
	passedAt: string | null;
	triedAt: string | null;
	/** Why the last pass did not come through. */
	error: string | null;
	/** What the server says of its quota, in bytes. */
	quotaUsed: number | null;
	quotaLimit: number | null;
}

const COLUMNS = {
	id: 'id',
	mailboxId: 'mailbox_id',
	host: 'host',
	port: 'port',
	tls: 'tls',
	certificate: 'certificate',
	user: 'user',
	auth: 'auth',
	leftOut: 'left_out',
	madeAt: 'made_at',
	madeBy: 'made_by',
	passedAt: 'passed_at',
	triedAt: 'tried_at',
	error: 'error',
	quotaUsed: 'quota_used',
	quotaLimit: 'quota_limit'
} as const;

const toSource = ({ leftOut, ...source }: Omit<Source, 'leftOut'> & { leftOut: string }): Source => ({
	...source,
	leftOut: JSON.parse(leftOut) as string[]
});

/** All live mailboxes, by the number of their mailbox. */
export async function listStoredSources(db: Db): Promise<Source[]> {
	return (await db('source').orderBy('mailbox_id').select(COLUMNS)).map(toSource);
}

/** Where a mailbox lives; undefined: here alone. */
export async function sourceOf(db: Db, mailboxId: number): Promise<Source | undefined> {
	const found = await db('source').where({ mailbox_id: mailboxId }).first(COLUMNS);
	return found && toSource(found);
}

/** The encrypted secret of a source. */
export async function secretOf(db: Db, id: number): Promise<Uint8Array | undefined> {
	return (await db('source').where({ id }).first('secret'))?.secret as Uint8Array | undefined;
}

/** Stores a source, in the place of the mailbox's former one: what is known of its folders stays. */
export async function putSource(
	db: Db,
	given: Pick<Source, 'mailboxId' | 'host' | 'port' | 'tls' | 'certificate' | 'user' | 'auth' | 'leftOut'>,
	{ secret, at, by }: { secret: Buffer; at: Date; by: string }
): Promise<number> {
	const fields = {
		host: given.host,
		port: given.port,
		tls: given.tls,
		certificate: given.certificate,
		user: given.user,
		auth: given.auth,
		secret,
		left_out: JSON.stringify(given.leftOut),
		error: null
	};
	const former = await sourceOf(db, given.mailboxId);
	if (former) {
		await db('source').where({ id: former.id }).update(fields);
		return former.id;
	}
	return idOf(db('source').insert({ mailbox_id: given.mailboxId, ...fields, made_at: at.toISOString(), made_by: by }));
}

/** Forgets a source with what is known of its folders; the mail stays. */
export async function removeSource(db: Db, id: number): Promise<void> {
	const folders = db('source_folder').where({ source_id: id }).select('id');
	await db('source_item').whereIn('source_folder_id', folders).delete();
	await db('source_folder').where({ source_id: id }).delete();
	await db('source_gone').where({ source_id: id }).delete();
	await db('source').where({ id }).delete();
}

/** Notes how a pass ended. */
export async function putPass(
	db: Db,
	id: number,
	{ at, error, quota }: { at: Date; error: string | null; quota?: { used: number; limit: number } | undefined }
): Promise<void> {
	await db('source')
		.where({ id })
		.update({
			tried_at: at.toISOString(),
			error,
			...(error === null ? { passed_at: at.toISOString() } : {}),
			...(quota ? { quota_used: quota.used, quota_limit: quota.limit } : {})
		});
}

/** How many messages of each source are known here. */
export async function followedMessages(db: Db): Promise<Map<number, number>> {
	const found = await rows<{ id: number; n: number }>(
		db,
		sql`SELECT source_id AS id, count(*) AS n FROM source_folder JOIN source_item ON source_folder_id = source_folder.id
		 GROUP BY 1`
	);
	return new Map(found.map(({ id, n }) => [id, n]));
}
