import { ruleOf } from '../../../../core/docket/decisions.ts';
import { reachSentence } from '../../../../core/sources/reach.ts';
import { today } from '../../context/index.ts';
import { getSetting } from '../../database/index.ts';
import { deleteWords, readStored, requireMailboxId } from '../../mail/index.ts';
import { pausedOn } from '../../standing/index.ts';
import { UNCHANGED } from '../batches-store.ts';
import { ensureCertificate } from '../certificates-store.ts';
import type { Change } from '../decision-work.ts';
import { destroyItems, messagesToDestroy } from './destroying-store.ts';

/**
 * Destroys items under the certificate of their docket. Their words are removed from the index before their bytes are
 * destroyed (invariant 12): each message has to be read again for that.
 */
export const destruction: Change = {
	batchItems: 500,
	changesDue: false,
	async carryOut(context, docket, batch) {
		const { db } = context;
		const mailbox = await requireMailboxId(context, docket.mailboxId);
		const paused = await pausedOn(db, mailbox.id, today(context));
		const messages = await messagesToDestroy(db, batch, paused);
		for await (const read of readStored(context, messages)) await deleteWords(db, read);
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
