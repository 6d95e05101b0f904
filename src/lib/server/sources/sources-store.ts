import type { Fetching } from '../../../core/sources/fetching.ts';
import type { TlsMode } from '../../../core/sources/server.ts';
import { change, type Db, idOf, rows, sql } from '../database/index.ts';

/** Where the mail of a mailbox lives: a server, and who signs in there. */
export interface Source extends Fetching {
	id: number;
	mailboxId: number;
	host: string;
	port: number;
	tls: TlsMode;
	/** A certificate that is trusted for this server alone (PEM). */
	certificate: string | null;
	user: string;
	auth: 'password' | 'token';
	/** Whether decisions are carried to the server; else it is only read. */
	writes: number;
	/** Where archived mail goes: into Kovrel alone, or into the archive folder of the server. */
	archiveOn: 'kovrel' | 'server';
	/** Which standing decisions the script on its server says, as a hash; null: none was put there. */
	scriptSays: string | null;
	/** The folder there that is the mailbox, with those below it; empty: all of the account's. */
	root: string;
	/** Paths of folders on the server that are not followed, with those below them; mailboxes of their own among them. */
	leftOut: string[];
	madeAt: string;
	madeBy: string;
	/** The end of the last pass that came through; ISO 8601 instants. */
	passedAt: string | null;
	triedAt: string | null;
	/** Why the last pass did not come through. */
	error: string | null;
	/** Whether a backup was restored since that pass. */
	isRestored: number;
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
	writes: 'writes',
	archiveOn: 'archive_on',
	root: 'root',
	leftOut: 'left_out',
	fetchFirst: 'fetch_first',
	bytesASecond: 'bytes_a_second',
	connections: 'connections',
	scriptSays: 'script_says',
	madeAt: 'made_at',
	madeBy: 'made_by',
	passedAt: 'passed_at',
	triedAt: 'tried_at',
	error: 'error',
	isRestored: 'is_restored',
	quotaUsed: 'quota_used',
	quotaLimit: 'quota_limit'
} as const;

/** All live mailboxes, by the number of their mailbox; those that were disconnected are none. */
export async function listStoredSources(db: Db): Promise<Source[]> {
	const stored = await db('source').whereNull('disconnected_at').orderBy('mailbox_id').select(COLUMNS);
	return stored.map((source) => {
		// an account may be several mailboxes: what is one of its own is followed there alone
		const others = stored.filter(
			({ id, host, user, root }) =>
				id !== source.id && host === source.host && user === source.user && root.length > source.root.length
		);
		const leftOut = JSON.parse(source.leftOut) as string[];
		return { ...source, leftOut: [...leftOut, ...others.map(({ root }) => root)] };
	});
}

/** Where a mailbox lives; undefined: here alone. */
export async function sourceOf(db: Db, mailboxId: number): Promise<Source | undefined> {
	return (await listStoredSources(db)).find((source) => source.mailboxId === mailboxId);
}

/** The encrypted secret of a source. */
export async function secretOf(db: Db, id: number): Promise<Uint8Array | undefined> {
	return (await db('source').where({ id }).first('secret'))?.secret as Uint8Array | undefined;
}

/** Stores the encrypted secret of a source. */
export async function putSecret(db: Db, id: number, secret: Buffer): Promise<void> {
	await db('source').where({ id }).update({ secret });
}

/** The server of a mailbox as it was given, also after it was disconnected. */
export interface GivenServer
	extends
		Fetching,
		Pick<Source, 'id' | 'mailboxId' | 'host' | 'port' | 'tls' | 'certificate' | 'user' | 'auth' | 'root' | 'writes'> {
	/** Paths of folders there that somebody left out; those that are mailboxes of their own are not among them. */
	leftOut: string[];
	disconnectedAt: string | null;
}

/** The servers to which mailboxes are, or were last, connected. */
export async function givenServers(db: Db): Promise<GivenServer[]> {
	const { id, mailboxId, host, port, tls, certificate, user, auth, root, writes, leftOut } = COLUMNS;
	const { fetchFirst, bytesASecond, connections } = COLUMNS;
	const columns = { id, mailboxId, host, port, tls, certificate, user, auth, root, writes, leftOut } as const;
	const more = { fetchFirst, bytesASecond, connections, disconnectedAt: 'disconnected_at' } as const;
	const stored = await db('source')
		.orderBy('mailbox_id')
		.select({ ...columns, ...more });
	return stored.map((source) => ({ ...source, leftOut: JSON.parse(source.leftOut) as string[] }));
}

/** The server to which a mailbox is, or was last, connected. */
export async function formerServer(db: Db, mailboxId: number): Promise<GivenServer | undefined> {
	return (await givenServers(db)).find((server) => server.mailboxId === mailboxId);
}

/**
 * Stores a source, in the place of the mailbox's former one, disconnected or not. Its folders stay known, and on the same
 * server their messages.
 */
export async function putSource(
	db: Db,
	given: Pick<
		Source,
		'mailboxId' | 'host' | 'port' | 'tls' | 'certificate' | 'user' | 'auth' | 'writes' | 'root' | 'leftOut'
	>,
	{ secret, at, by }: { secret: Buffer; at: Date; by: string }
): Promise<number> {
	const fields = {
		host: given.host,
		port: given.port,
		tls: given.tls,
		certificate: given.certificate,
		user: given.user,
		auth: given.auth,
		writes: given.writes,
		secret,
		root: given.root,
		left_out: JSON.stringify(given.leftOut),
		error: null
	};
	const former = await formerServer(db, given.mailboxId);
	if (former) {
		await db('source')
			.where({ id: former.id })
			.update({ ...fields, disconnected_at: null });
		if (former.host !== given.host || former.user !== given.user) await forgetNumbers(db, former.id);
		if (given.writes === 1 && former.writes === 0) await keepNamesApart(db, former.id);
		return former.id;
	}
	return idOf(db('source').insert({ mailbox_id: given.mailboxId, ...fields, made_at: at.toISOString(), made_by: by }));
}

/** On another server the same numbers are other messages: all are recognised by their bytes, as after a new UIDVALIDITY. */
export async function forgetNumbers(db: Db, id: number): Promise<void> {
	await db('source_folder').where({ source_id: id }).update({ uid_validity: 'of another server', modseq: null });
	await db('source').where({ id }).update({ passed_at: null });
}

/**
 * Ends following a source: nothing waits for it, its secret is forgotten, and it is not written to. What is known of its
 * messages stays: without it, mail that is moved there until it is connected again would be here twice.
 */
export async function endSource(db: Db, id: number, at: Date): Promise<void> {
	const folders = db('source_folder').where({ source_id: id }).select('id');
	await db('source_ahead').whereIn('source_folder_id', folders).delete();
	await db('outbox').where({ source_id: id }).delete();
	await db('source')
		.where({ id })
		.update({
			disconnected_at: at.toISOString(),
			secret: Buffer.alloc(0),
			writes: 0,
			script_says: null,
			passed_at: null
		});
}

/* Folders that were renamed here while the server was only read keep their names there. */
async function keepNamesApart(db: Db, id: number): Promise<void> {
	await change(
		db,
		sql`UPDATE source_folder SET path_here = (SELECT path FROM folder WHERE folder.id = folder_id) WHERE source_id = ${id}`
	);
}

/** Stores which standing decisions the script on the server of a live mailbox says. */
export async function putScriptSays(db: Db, id: number, says: string | null): Promise<void> {
	await db('source').where({ id }).update({ script_says: says });
}

/** Says whether decisions are carried to a server, and where archived mail goes. */
export async function putWriting(
	db: Db,
	id: number,
	{ writes, archiveOn }: { writes: boolean; archiveOn: Source['archiveOn'] }
): Promise<void> {
	const before = await db('source').where({ id }).first('writes');
	if (writes && before?.writes === 0) await keepNamesApart(db, id);
	await db('source')
		.where({ id })
		.update({ writes: writes ? 1 : 0, archive_on: archiveOn });
	// nothing is written any more: what waits stays here alone
	if (!writes) await db('outbox').where({ source_id: id }).delete();
}

/** Notes that a backup was restored: every server is only read, and what waits for it goes on waiting. */
export async function putRestored(db: Db): Promise<void> {
	await db('source').update({ writes: 0, is_restored: 1 });
}

/** Says how a live mailbox's mail is fetched. */
export async function putFetching(
	db: Db,
	id: number,
	{ fetchFirst, bytesASecond, connections }: Fetching
): Promise<void> {
	await db('source').where({ id }).update({ fetch_first: fetchFirst, bytes_a_second: bytesASecond, connections });
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
			...(error === null ? { passed_at: at.toISOString(), is_restored: 0 } : {}),
			...(quota ? { quota_used: quota.used, quota_limit: quota.limit } : {})
		});
}

/** What is followed of a source: messages of its folders, and what they weigh here by where they lie. */
export interface Followed {
	messages: number;
	bytes: number;
	/** Of them, archived here and still on the server. */
	archived: number;
}

/** What is followed of each source. */
export async function followedWeights(db: Db): Promise<Map<number, Followed>> {
	const found = await rows<Followed & { id: number }>(
		db,
		sql`SELECT source_id AS id, count(*) AS messages, ifnull(sum(item.bytes), 0) AS bytes,
			ifnull(sum(CASE item.state WHEN 'archived' THEN item.bytes ELSE 0 END), 0) AS archived
		 FROM source_folder JOIN source_item ON source_folder_id = source_folder.id LEFT JOIN item ON item.id = item_id GROUP BY 1`
	);
	return new Map(found.map(({ id, ...followed }) => [id, followed]));
}
