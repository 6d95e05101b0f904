import { inTransaction, sql } from '../database/index.ts';
import { appliedSettings, refreshDue, refreshHolds } from '../standing/index.ts';
import {
	firstItemNotThreaded,
	getMailbox,
	itemRange,
	likelyAddresses,
	type Mailbox,
	putAddressed,
	putClearing,
	threadNewMail
} from '../mail/index.ts';
import { actingAs, type Context } from '../context/index.ts';
import { applyKeepList } from '../keep-list/index.ts';
import { applyBlocking, noteWrittenTo } from '../lists/index.ts';
import { administratorNamed } from '../../../core/access/roles.ts';

/* An owner with more addresses than this lists them in the settings. */
const LIKELY_ADDRESSES = 3;
const RETAINED_AT_ONCE = 20_000;

/* New mail is due by its folder; as the last message of its thread it restarts the others' period. */
async function retainNewMail({ db }: Context, mailboxId: number, first: number): Promise<void> {
	if ((await appliedSettings(db, mailboxId)).settings === 0) return;
	const { last } = await itemRange(db, mailboxId);
	for (let after = first - 1; after < last; after += RETAINED_AT_ONCE) {
		const fresh = sql`fresh.id > ${after} AND fresh.id <= ${after + RETAINED_AT_ONCE}`;
		await inTransaction(db, (trx) =>
			refreshDue(
				trx,
				mailboxId,
				sql`item.id IN (SELECT fresh.id FROM item fresh WHERE ${fresh}
					UNION SELECT other.id FROM item fresh CROSS JOIN item other ON other.thread_id = fresh.thread_id
						WHERE ${fresh} AND +fresh.mailbox_id = ${mailboxId})`
			)
		);
	}
}

/** Places new mail among existing mail: its threads, and how it addresses the owner. */
export async function placeNewMail(context: Context, mailboxId: number): Promise<void> {
	const first = await firstItemNotThreaded(context.db, mailboxId);
	if (first === undefined) return;
	await inTransaction(context.db, async (db) => {
		const mailbox = (await getMailbox(db, mailboxId)) as Mailbox;
		const known = mailbox.addresses.length > 0;
		const addresses = known ? mailbox.addresses : await likelyAddresses(db, mailboxId, LIKELY_ADDRESSES);
		if (!known && addresses.length > 0) await putClearing(db, mailboxId, { ...mailbox, addresses });
		// a newly known address changes how earlier mail addresses the owner
		await putAddressed(db, mailboxId, addresses, known ? first - 1 : 0);
		await refreshHolds(db, sql`item.mailbox_id = ${mailboxId} AND item.id >= ${first}`);
	});
	// after a stop it continues with the next import or the next start
	const whole = { ...context, signal: new AbortController().signal };
	await threadNewMail(whole, { mailboxId });
	await retainNewMail(whole, mailboxId, first);
	await noteWrittenTo(whole, mailboxId);
	await applyKeepList(actingAs(whole, administratorNamed('Keep-list')), { mailboxId, sinceItem: first });
	await applyBlocking(actingAs(whole, administratorNamed('Blocked senders')), { mailboxId, sinceItem: first });
}
