import type { Suggestion } from '../../../core/weigh/advice.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import { freedByDay, weighInbox } from '../mail/index.ts';
import { type Context, defineUseCase, id } from '../context/index.ts';
import { listProposals, type Proposal } from '../lots/index.ts';
import { type MailboxWeight, weighMailbox } from './weigh.ts';
import Joi from 'joi';

/** How far a mailbox is from its finish line. */
export interface FinishLine {
	inbox: Weight & { aim: number };
	/** Bytes over the quota; 0: under it, or without one. */
	over: number;
	reached: boolean;
	/** Ways to get there, the largest gain first. */
	next: (Suggestion | Proposal)[];
}

/** Bytes freed, cumulated by day. */
export interface FreedSoFar {
	total: Weight;
	days: (Weight & { day: string })[];
}

const NEXT_SHOWN = 4;

/** The state of clearing a mailbox: its weight, the finish line, and the bytes freed so far. */
export async function clearingOverview(
	context: Context,
	input: { mailboxId: number }
): Promise<{ mailbox: MailboxWeight; finish: FinishLine; freed: FreedSoFar }> {
	const { mailbox, suggestions } = await weighMailbox(context, { mailboxId: input.mailboxId });
	const inbox = await weighInbox(context.db, mailbox.id);
	const { proposals } = await listProposals(context, { mailboxId: mailbox.id });
	const over = Math.max(0, mailbox.bytes - (mailbox.quotaBytes ?? Number.POSITIVE_INFINITY));
	return {
		mailbox,
		finish: {
			inbox: { ...inbox, aim: mailbox.inboxAim },
			over,
			reached: over === 0 && inbox.messages <= mailbox.inboxAim,
			next: [...proposals, ...suggestions].sort((a, b) => b.bytes - a.bytes).slice(0, NEXT_SHOWN)
		},
		freed: await freedSoFar(context, { mailboxId: mailbox.id })
	};
}

/** The bytes freed so far, of one mailbox or all: exact, less what was restored. */
async function freedSoFar({ db }: Context, input: { mailboxId?: number | undefined }): Promise<FreedSoFar> {
	const total = { messages: 0, bytes: 0 };
	const days = (await freedByDay(db, input.mailboxId)).map(({ day, messages, bytes }) => {
		total.messages += messages;
		total.bytes += bytes;
		return { day, ...total };
	});
	return { total, days };
}

/** The use cases of this file. */
export const clearingUseCases = [
	defineUseCase({
		name: 'freedSoFar',
		input: () => Joi.object({ mailboxId: id }).required(),
		thread: 'reader',
		right: 'oversight',
		run: freedSoFar
	}),
	defineUseCase({
		name: 'clearingOverview',
		input: () => Joi.object({ mailboxId: id.required() }).required(),
		thread: 'heavy',
		right: 'administrator',
		run: clearingOverview
	})
] as const;
