import type { Suggestion } from '../../../core/weigh/advice.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import { freedByDay, requireMailboxes, weighInbox, weightAheadInInbox } from '../mail/index.ts';
import { type Context, defineUseCase, id, mailboxIds } from '../context/index.ts';
import { listProposals, type Proposal } from '../lots/index.ts';
import { listWeights, type MailboxWeight, weighMailbox } from './weigh.ts';
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
	const { proposals } = await listProposals(context, { mailboxId: mailbox.id });
	return {
		mailbox,
		finish: {
			...(await finishOf(context, mailbox)),
			next: [...proposals, ...suggestions].sort((a, b) => b.bytes - a.bytes).slice(0, NEXT_SHOWN)
		},
		freed: await freedSoFar(context, { mailboxId: mailbox.id })
	};
}

/** How far several mailboxes are from their finish lines, the one most over its quota first. @throws Refusal */
export async function clearingTogether(
	context: Context,
	input: { mailboxIds?: number[] | undefined }
): Promise<(MailboxWeight & Pick<FinishLine, 'inbox' | 'over' | 'reached'>)[]> {
	const wanted = new Set((await requireMailboxes(context, input.mailboxIds)).map(({ id }) => id));
	const lines: Awaited<ReturnType<typeof clearingTogether>> = [];
	for (const mailbox of await listWeights(context)) {
		if (!wanted.has(mailbox.id)) continue;
		lines.push({ ...mailbox, ...(await finishOf(context, mailbox)) });
	}
	return lines.sort((a, b) => b.over - a.over || b.bytes - a.bytes);
}

/* With the mail that is still on its server, as the weight has it: an inbox that is being fetched is not empty. */
async function finishOf(
	{ db }: Context,
	mailbox: MailboxWeight
): Promise<Pick<FinishLine, 'inbox' | 'over' | 'reached'>> {
	const here = await weighInbox(db, mailbox.id);
	const ahead = await weightAheadInInbox(db, mailbox.id);
	const inbox = { messages: here.messages + ahead.messages, bytes: here.bytes + ahead.bytes };
	const over = Math.max(0, mailbox.bytes - (mailbox.quotaBytes ?? Number.POSITIVE_INFINITY));
	return {
		inbox: { ...inbox, aim: mailbox.inboxAim },
		over,
		reached: over === 0 && inbox.messages <= mailbox.inboxAim
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
		name: 'clearingTogether',
		input: () => Joi.object({ mailboxIds }).required(),
		thread: 'reader',
		right: 'administrator',
		run: clearingTogether
	}),
	defineUseCase({
		name: 'clearingOverview',
		input: () => Joi.object({ mailboxId: id.required() }).required(),
		thread: 'heavy',
		right: 'administrator',
		run: clearingOverview
	})
] as const;
