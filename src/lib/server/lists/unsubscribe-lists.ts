import { mailRequest } from '../../../core/lists/mail-request.ts';
import type { Attempt } from '../../../core/lists/standing.ts';
import { showCount } from '../../../core/weigh/units.ts';
import { inTransaction } from '../database/index.ts';
import type { OutsideAnswer } from '../outside/index.ts';
import { Refusal } from '../refusal.ts';
import { appendLedger } from '../ledger/index.ts';
import {
	attemptsBegun,
	attemptsOn,
	pendingAttempts,
	beginSending,
	countPendingAttempts,
	endSending,
	type UnsubscribeAttempt
} from './unsubscribe-store.ts';
import { listsById } from './lists-store.ts';
import { getMailbox } from '../mail/index.ts';
import { type Context, defineJob, defineUseCase, id, today } from '../context/index.ts';
import { readWaysOf } from './list-ways.ts';
import { officeDomains } from './office-domains.ts';
import Joi from 'joi';

/** The result of unsubscribe requests. */
export interface Asked {
	confirmed: number;
	asked: number;
	failed: number;
	/** Interrupted before: unknown whether they arrived. */
	unknown: number;
	/** Not sent, as somebody stopped it; sent when it continues. */
	waiting: number;
}

/* Requests sent at the same time: a slow server does not delay the others, and none is flooded. */
const AT_ONCE = 4;

/* Requests being sent by this thread. */
const sending = new Set<number>();

function isAlive(pid: number): boolean {
	try {
		process.kill(pid, 0);
		return true;
	} catch (error) {
		return (error as NodeJS.ErrnoException).code === 'EPERM';
	}
}

async function note(
	context: Context,
	attempt: UnsubscribeAttempt,
	end: Pick<Attempt, 'state' | 'answer'>
): Promise<void> {
	await inTransaction(context.db, async (db) => {
		await endSending(db, attempt.id, end, context.now());
		const [list] = await listsById(db, [attempt.listId]);
		await appendLedger(db, {
			at: context.now(),
			by: attempt.who === context.actor.name ? context.actor : { personId: null, name: attempt.who },
			action: 'list-asked',
			details: {
				mailbox: (await getMailbox(db, attempt.mailboxId))?.name ?? '',
				list: list?.identifier ?? '',
				way: attempt.way,
				target: attempt.target,
				state: end.state,
				answer: end.answer
			}
		});
	});
}

/* A request interrupted with its process may have arrived, so it is not repeated automatically. */
async function noteCutOff(context: Context): Promise<number> {
	const begun = await attemptsBegun(context.db, 1_000);
	const cutOff = begun.filter(({ id, sender }) =>
		sender === process.pid ? !sending.has(id) : sender === null || !isAlive(sender)
	);
	for (const attempt of cutOff)
		await note(context, attempt, { state: 'unknown', answer: 'cut off while it was sent; it may have been heard' });
	return cutOff.length;
}

/* The sender is the address to which the list writes, or the mailbox's first if that is not one of its own. */
async function send(context: Context, { mailboxId, listId, target }: UnsubscribeAttempt): Promise<OutsideAnswer> {
	const {
		to,
		subject,
		body,
		text = body
	} = JSON.parse(target) as Record<'to' | 'subject', string> & {
		text?: string;
		/** Names used by earlier dockets. */
		body?: string;
	};
	// requests stored by an earlier version, or before an address became the office's, are checked against today's
	// rules
	const ways = (await readWaysOf(context, mailboxId, [listId])).get(listId);
	const [list] = await listsById(context.db, [listId]);
	const asking = {
		sender: ways?.sender ?? '',
		organisation: list?.organisation ?? '',
		office: await officeDomains(context.db)
	};
	const mail = mailRequest({ to, subject, body: text ?? '' }, asking);
	if ('why' in mail) return { heard: false, said: `nothing was sent, as ${mail.why}` };
	const addresses = (await getMailbox(context.db, mailboxId))?.addresses ?? [];
	const writesTo = ways?.writesTo ?? '';
	const from = addresses.includes(writesTo) ? writesTo : addresses[0];
	if (from === undefined)
		return { heard: false, said: 'it is not known under which address the mailbox is written to' };
	return context.outside.send({ from, ...mail });
}

async function ask(context: Context, attempt: UnsubscribeAttempt): Promise<Pick<Attempt, 'state' | 'answer'>> {
	try {
		const { heard, isUnknown, said } =
			attempt.way === 'one-click' ? await context.outside.oneClick(attempt.target) : await send(context, attempt);
		if (!heard) return { state: isUnknown ? 'unknown' : 'failed', answer: said };
		// a list that accepts the request confirms it; an accepted mail confirms nothing
		return { state: attempt.way === 'one-click' ? 'confirmed' : 'asked', answer: said };
	} catch (error) {
		if (!(error instanceof Refusal)) throw error;
		return { state: 'failed', answer: error.message };
	}
}

async function askOne(context: Context, attempt: UnsubscribeAttempt): Promise<Attempt['state'] | undefined> {
	sending.add(attempt.id);
	try {
		// committed before sending, so that nothing is sent a second time
		const claimed = await inTransaction(context.db, (db) => beginSending(db, attempt.id, today(context), process.pid));
		if (!claimed) return undefined;
		const end = await ask(context, attempt);
		await note(context, attempt, end);
		return end.state;
	} finally {
		sending.delete(attempt.id);
	}
}

/** How many lists of all mailboxes have a pending request. */
export async function listsWaiting({ db }: Context): Promise<number> {
	return countPendingAttempts(db);
}

/**
 * Sends the pending requests: each once, by its selected way.
 *
 * @param input.docketId only requests of this docket; undefined: also those stopped or interrupted before
 */
export async function leaveLists(context: Context, input: { docketId?: number }): Promise<Asked> {
	const { docketId } = input;
	const counts: Asked = { confirmed: 0, asked: 0, failed: 0, unknown: await noteCutOff(context), waiting: 0 };
	const total = await countPendingAttempts(context.db, docketId);
	let done = 0;
	while (!context.signal.aborted) {
		const some = await pendingAttempts(context.db, docketId, AT_ONCE);
		if (some.length === 0) break;
		for (const state of await Promise.all(some.map((attempt) => askOne(context, attempt))))
			if (state === 'confirmed' || state === 'asked' || state === 'failed') counts[state]++;
		done += some.length;
		context.report({ done, total, note: `${showCount(done)} of ${showCount(total)} lists asked` });
	}
	counts.waiting = await countPendingAttempts(context.db, docketId);
	return counts;
}

/** Records that a person has unsubscribed from a list by hand. @throws Refusal */
export async function unsubscribedByHand(
	context: Context,
	input: { mailboxId: number; listId: number }
): Promise<void> {
	const [last] = await attemptsOn(context.db, input.mailboxId, input.listId);
	if (last?.state !== 'by-hand')
		throw new Refusal('not-possible', 'This list does not wait to be left by hand. Nothing was changed.');
	await note({ ...context }, { ...last, who: context.actor.name }, { state: 'asked', answer: 'left by hand' });
}

/** The use cases of this file. */
export const leaveListsUseCases = [
	defineUseCase({
		name: 'unsubscribedByHand',
		input: () => Joi.object({ mailboxId: id.required(), listId: id.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: unsubscribedByHand
	}),
	defineJob(
		{
			name: 'leaveLists',
			input: () => Joi.object({ docketId: id }).required(),
			thread: 'writer',
			right: 'administrator',
			run: leaveLists
		},
		{ lane: 'outside', about: () => ({ kind: 'lists' }) }
	)
] as const;
