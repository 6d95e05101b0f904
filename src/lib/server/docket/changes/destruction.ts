import { ruleOf } from '../../../../core/docket/decisions.ts';
import { showMessages } from '../../../../core/weigh/units.ts';
import { reachSentence } from '../../../../core/sources/reach.ts';
import { type Context, today } from '../../context/index.ts';
import { getSetting } from '../../database/index.ts';
import { countIndexed, deleteWords, indexedAmong, mergeWords, readStored, requireMailboxId } from '../../mail/index.ts';
import { Refusal } from '../../refusal.ts';
import { pausedOn } from '../../standing/index.ts';
import { UNCHANGED } from '../batches-store.ts';
import { ensureCertificate } from '../certificates-store.ts';
import type { Change } from '../decision-work.ts';
import { destroyItems, messagesToDestroy } from './destroying-store.ts';

/*
 * Measured: merging costs 12 µs for each message of the index, and saves 700 µs for each that is destroyed. A small part
 * is destroyed without, as writing the index anew is hard on a slow disk.
 */
const PART_WORTH_MERGING = 1 / 20;

/* The index keeps no text: each message is read again, to tell it which words to remove. */
async function removeWords(context: Context, going: readonly { id: number; contentId: number }[]): Promise<void> {
	const { db } = context;
	const ids = going.map(({ id }) => id);
	const indexed = new Set(await indexedAmong(db, ids));
	const messages = going.filter(({ id }) => indexed.has(id));
	for await (const read of readStored(context, messages)) await deleteWords(db, read);
	const left = await indexedAmong(db, ids);
	if (left.length > 0)
		throw new Refusal(
			'not-possible',
			`The words of ${showMessages(left.length)} could not be removed from the index, because reading the mail again failed. They and what follows were not destroyed. Carry the docket out again.`
		);
}

/**
 * Destroys items under the certificate of their docket. Their words are removed from the index before their bytes are
 * destroyed (invariant 12).
 */
export const destruction: Change = {
	batchItems: 500,
	changesDue: false,
	async prepare({ db, signal, report }, items) {
		if (items <= PART_WORTH_MERGING * (await countIndexed(db))) return;
		report({ done: 0, total: items, note: 'preparing the index of words' });
		await mergeWords(db, signal);
	},
	async carryOut(context, docket, batch) {
		const { db } = context;
		const mailbox = await requireMailboxId(context, docket.mailboxId);
		const paused = await pausedOn(db, mailbox.id, today(context));
		const messages = await messagesToDestroy(db, batch, paused);
		await removeWords(context, messages);
		const certificateId = await ensureCertificate(db, {
			docketId: docket.id,
			mailbox: mailbox.name,
			at: context.now().toISOString(),
			who: context.actor.name,
			decidedBy: docket.draftedBy,
			reach: mailbox.server ? reachSentence(ruleOf(batch.line.decision), batch.line.options, mailbox.server) : ''
		});
		const keepsSubjects = (await getSetting(db, 'certificate-keeps')) === 'subject';
		return destroyItems(db, batch, messages, { mailboxId: mailbox.id, certificateId, keepsSubjects, paused });
	},
	// destruction cannot be reversed
	takeBack: async () => UNCHANGED
};
