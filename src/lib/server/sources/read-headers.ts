import type { FetchMessageObject } from 'imapflow';
import { organisationOf } from '../../../core/message/addresses.ts';
import { receivedDate } from '../../../core/message/date.ts';
import { readHeader } from '../../../core/message/header.ts';
import { ORIGIN_FIELDS, readOrigin } from '../../../core/message/summary.ts';
import { sequenceSet } from '../../../core/sources/fetching.ts';
import { flagBits, flagsOf } from '../../../core/sources/server.ts';
import { showCount } from '../../../core/weigh/units.ts';
import { type Context, nowSeconds } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import { type AheadMessage, aheadIn, dropAhead, putAhead } from './ahead-store.ts';
import type { Folder, Following } from './look-through.ts';
import { requireConnected } from './require-source.ts';

/*
 * Headers, flags and sizes come first: a mailbox is weighed within seconds, while its bytes are on their way for hours.
 */

/* With fewer new messages, their bytes are here as soon as their headers would be. */
const FEW = 200;
const AT_ONCE = 1_000;

/** When a server says that a message came in (INTERNALDATE), in seconds since 1970; undefined: not, or no date. */
export function secondsOf(internalDate: Date | string | undefined): number | undefined {
	const at = internalDate === undefined ? NaN : new Date(internalDate).getTime();
	return Number.isNaN(at) ? undefined : Math.floor(at / 1_000);
}

const FIELDS = { uid: true, flags: true, size: true, internalDate: true, headers: [...ORIGIN_FIELDS] };
const LONGEST = 320;

/* Who sent it and when it came, as they will be read from its bytes. */
function aheadOf(context: Context, { uid, flags, size, internalDate, headers }: FetchMessageObject): AheadMessage {
	const { from, sentAt, receivedAt } = readOrigin(readHeader(headers ?? new Uint8Array()));
	const { at, inDoubt } = receivedDate(
		{ received: receivedAt, envelope: secondsOf(internalDate), date: sentAt },
		nowSeconds(context)
	);
	const address = from.address.slice(0, LONGEST);
	return {
		uid,
		bytes: size ?? 0,
		receivedAt: at,
		receivedOn: at === undefined || inDoubt ? undefined : context.dateOf(at),
		address,
		name: from.name.slice(0, LONGEST),
		organisation: organisationOf(address),
		unread: !flagsOf(flagBits(flags ?? [])).seen
	};
}

/** Reads the headers of what is new in some folders, and forgets what is not on its way any more. */
export async function readHeaders(
	context: Context,
	{ client, source }: Following,
	folders: readonly Folder[]
): Promise<void> {
	const total = folders.reduce((sum, { fresh }) => sum + fresh.length, 0);
	let done = 0;
	for (const { path, followed, fresh } of folders) {
		const known = await aheadIn(context.db, followed.id);
		const wanted = new Set(fresh);
		const gone = [...known.keys()].filter((uid) => !wanted.has(uid));
		if (gone.length > 0) await inTransaction(context.db, (db) => dropAhead(db, followed.id, gone));
		// after a stop, those that are known are not asked for again
		const unknown = total < FEW ? [] : fresh.filter((uid) => !known.has(uid));
		if (unknown.length === 0) continue;
		await client.mailboxOpen(path, { readOnly: true });
		for (let at = 0; at < unknown.length; at += AT_ONCE) {
			if (context.signal.aborted) return;
			const uids = unknown.slice(at, at + AT_ONCE);
			const ahead: AheadMessage[] = [];
			for await (const message of client.fetch(sequenceSet(uids), FIELDS, { uid: true }))
				ahead.push(aheadOf(context, message));
			await inTransaction(context.db, async (db) => {
				await requireConnected({ ...context, db }, source);
				await putAhead(db, followed.id, ahead);
			});
			done += uids.length;
			// the share is that of the messages, which come after
			context.report({ done: 0, total: 0, note: `${showCount(done)} of ${showCount(total)} headers read` });
		}
	}
}
