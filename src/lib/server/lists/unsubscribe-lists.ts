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
	attemptsWaiting,
	beginSending,
	countWaiting,
	endSending,
	type Leaving
} from './unsubscribe-store.ts';
import { listsById } from './lists-store.ts';
import { getMailbox } from '../mail/index.ts';
import { type Context, defineJob, defineUseCase, id, today } from '../context/index.ts';
import { readWaysOf } from './list-ways.ts';
import { officeDomains } from './office-domains.ts';
import Joi from 'joi';

/** What became of the lists that were asked to stop. */
export interface Asked {
	confirmed: number;
	asked: number;
	failed: number;
	/** Cut off before: it is not known whether they heard it. */
	unknown: number;
	/** Not asked, as somebody stopped it; they are asked when it goes on. */
	waiting: number;
}

/* Asked at the same time: a slow one does not hold up the others, and nobody is flooded. */
const AT_ONCE = 4;

/* Being sent by this thread right now. */
const sending = new Set<number>();

function isAlive(pid: number): boolean {
	try {
		process.kill(pid, 0);
		return true;
	} catch (error) {
		return (error as NodeJS.ErrnoException).code === 'EPERM';
	}
}

async function note(context: Context, attempt: Leaving, end: Pick<Attempt, 'state' | 'answer'>): Promise<void> {
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

/* What another process was sending when it ended: nobody knows whether it was heard, so it is not sent again by itself. */
async function noteCutOff(context: Context): Promise<number> {
	const begun = await attemptsBegun(context.db, 1_000);
	const cutOff = begun.filter(({ id, sender }) =>
		sender === process.pid ? !sending.has(id) : sender === null || !isAlive(sender)
	);
	for (const attempt of cutOff)
		await note(context, attempt, { state: 'unknown', answer: 'cut off while it was sent; it may have been heard' });
	return cutOff.length;
}

/* The mail goes out under the address to which the list writes; where that is not one of the mailbox's, under its first. */
async function send(context: Context, { mailboxId, listId, target }: Leaving): Promise<OutsideAnswer> {
	const {
		to,
		subject,
		body,
		text = body
	} = JSON.parse(target) as Record<'to' | 'subject', string> & {
		text?: string;
		/** What dockets of before called it. */
		body?: string;
	};
	// what was noted by an earlier Kovrel, or before an address became one of the office, is held against the rules of now
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

async function ask(context: Context, attempt: Leaving): Promise<Pick<Attempt, 'state' | 'answer'>> {
	try {
		const { heard, said } =
			attempt.way === 'one-click' ? await context.outside.oneClick(attempt.target) : await send(context, attempt);
		if (!heard) return { state: 'failed', answer: said };
		// a list that takes the request says so itself; a mail only says that it was taken
		return { state: attempt.way === 'one-click' ? 'confirmed' : 'asked', answer: said };
	} catch (error) {
		if (!(error instanceof Refusal)) throw error;
		return { state: 'failed', answer: error.message };
	}
}

async function askOne(context: Context, attempt: Leaving): Promise<Attempt['state'] | undefined> {
	sending.add(attempt.id);
	try {
		// committed before anything is sent: whatever happens now, it is not sent a second time
		const claimed = await inTransaction(context.db, (db) => beginSending(db, attempt.id, today(context), process.pid));
		if (!claimed) return undefined;
		const end = await ask(context, attempt);
		await note(context, attempt, end);
		return end.state;
	} finally {
		sending.delete(attempt.id);
	}
}

/** How many lists, of any mailbox, wait to be asked to stop. */
export async function listsWaiting({ db }: Context): Promise<number> {
	return countWaiting(db);
}

/**
 * Asks the lists that wait for it to stop: each once, by the way that was decided.
 *
 * @param input.docketId only those that this docket leaves; without it, also what was stopped or cut off before
 */
export async function leaveLists(context: Context, input: { docketId?: number }): Promise<Asked> {
	const { docketId } = input;
	const counts: Asked = { confirmed: 0, asked: 0, failed: 0, unknown: await noteCutOff(context), waiting: 0 };
	const total = await countWaiting(context.db, docketId);
	let done = 0;
	while (!context.signal.aborted) {
		const some = await attemptsWaiting(context.db, docketId, AT_ONCE);
		if (some.length === 0) break;
		for (const state of await Promise.all(some.map((attempt) => askOne(context, attempt))))
			if (state === 'confirmed' || state === 'asked' || state === 'failed') counts[state]++;
		done += some.length;
		context.report({ done, total, note: `${showCount(done)} of ${showCount(total)} lists asked` });
	}
	counts.waiting = await countWaiting(context.db, docketId);
	return counts;
}

/** Notes that a person has left a list by hand. @throws Refusal */
export async function leftByHand(context: Context, input: { mailboxId: number; listId: number }): Promise<void> {
	const [last] = await attemptsOn(context.db, input.mailboxId, input.listId);
	if (last?.state !== 'by-hand')
		throw new Refusal('not-possible', 'This list does not wait to be left by hand. Nothing was changed.');
	await note({ ...context }, { ...last, who: context.actor.name }, { state: 'asked', answer: 'left by hand' });
}

/** The use cases of this file. */
export const leaveListsUseCases = [
	defineUseCase({
		name: 'leftByHand',
		input: () => Joi.object({ mailboxId: id.required(), listId: id.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: leftByHand
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
