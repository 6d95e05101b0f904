import { createHash } from 'node:crypto';
import type { ImapFlow } from 'imapflow';
import { withLf } from '../../../core/sources/line-ends.ts';
import { sequenceSet } from '../../../core/sources/fetching.ts';
import { type Db, inList, rows, sql } from '../database/index.ts';
import { secondsOf } from './read-headers.ts';

/*
 * A server that was replaced under its old name, or restored from a backup of its own, may give the numbers of known
 * messages to others, under the same UIDVALIDITY: nothing in the protocol tells. Their dates there (INTERNALDATE) do.
 */

/** The SHA-256 of bytes. */
export const sha256Of = (bytes: Uint8Array): Buffer => createHash('sha256').update(bytes).digest();

/* Whether a message of the server is one that is kept here, as it travelled or as in the file from which it was imported. */
function isSame(travelled: Uint8Array, sha256: Buffer): boolean {
	if (sha256.equals(sha256Of(travelled))) return true;
	const filed = withLf(travelled);
	return filed !== undefined && sha256.equals(sha256Of(filed));
}

interface Known {
	uid: number;
	date: number;
	/** Of its bytes; null: the message was destroyed here. */
	sha256: Buffer | null;
}

async function knownAmong(db: Db, folderId: number, uids: readonly number[]): Promise<Known[]> {
	return rows(
		db,
		sql`SELECT uid, internal_date AS date, sha256
		 FROM source_item LEFT JOIN item ON item.id = item_id LEFT JOIN message ON message.id = item.message_id
			LEFT JOIN content ON content.id = content_id
		 WHERE source_folder_id = ${folderId} AND uid IN ${inList(uids)} AND internal_date IS NOT NULL`
	);
}

/**
 * Compares messages of the open folder with those that Kovrel knows by their numbers.
 *
 * @returns whether some are other messages: their dates and their bytes differ; and the numbers of those of which only the
 *   date can be compared, as they were destroyed here, and it differs
 */
export async function compareMessages(
	db: Db,
	client: ImapFlow,
	folderId: number,
	uids: readonly number[]
): Promise<{ areOthers: boolean; inDoubt: Set<number> }> {
	const known = new Map((await knownAmong(db, folderId, uids)).map((message) => [message.uid, message]));
	const differing: Known[] = [];
	if (known.size > 0)
		for await (const { uid, internalDate } of client.fetch(
			sequenceSet([...known.keys()]),
			{ uid: true, internalDate: true },
			{ uid: true }
		)) {
			const message = known.get(uid);
			const date = secondsOf(internalDate);
			if (message && date !== undefined && date !== message.date) differing.push(message);
		}
	const inDoubt = new Set(differing.filter(({ sha256 }) => sha256 === null).map(({ uid }) => uid));
	const readable = differing.filter(({ sha256 }) => sha256 !== null).map(({ uid }) => uid);
	// some servers give what they moved or copied another date: the bytes decide
	if (readable.length > 0)
		for await (const { uid, source } of client.fetch(
			sequenceSet(readable),
			{ uid: true, source: true },
			{ uid: true }
		)) {
			const sha256 = known.get(uid)?.sha256;
			if (source && sha256 && !isSame(source, sha256)) return { areOthers: true, inDoubt };
		}
	return { areOthers: false, inDoubt };
}
