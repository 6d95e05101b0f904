import Joi from 'joi';
import { readDate } from '../../../core/calendar.ts';
import { listOwners } from '../access/index.ts';
import { type Context, defineUseCase, id, text, today } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import { appendLedger } from '../ledger/index.ts';
import { Refusal } from '../refusal.ts';
import { requireOwn } from './own-mailbox.ts';
import { addReview, getReview, listReviews, openReview, putReview, type Review } from './reviews-store.ts';

/** A review with the owner who is asked for it. */
export interface ReviewView extends Review {
	owner: string;
	/** Its day has come, or it was ended. */
	isOver: boolean;
}

const refuse = (sentence: string) => new Refusal('bad-input', `${sentence} Nobody was asked.`);

/**
 * Asks the owners of mailboxes to review what would go from them by a day; none of it goes before that day.
 *
 * @returns how many messages each reviews
 * @throws Refusal
 */
export async function askReviews(
	context: Context,
	input: { mailboxIds: number[]; until: string; because: string }
): Promise<{ mailbox: string; owner: string; messages: number }[]> {
	const [until, because] = [readDate(input.until), input.because.trim()];
	if (until === undefined || until <= today(context)) throw refuse('The day of the review lies ahead.');
	if (because === '') throw refuse('Say why: the owner reads it.');
	if (input.mailboxIds.length === 0) throw refuse('Select a mailbox first.');
	return inTransaction(context.db, async (db) => {
		const owners = new Map((await listOwners(db)).map((owner) => [owner.mailboxId, owner]));
		const asked: { mailbox: string; owner: string; messages: number }[] = [];
		for (const mailboxId of new Set(input.mailboxIds)) {
			const found = owners.get(mailboxId);
			if (!found) throw refuse('A mailbox without an owner cannot be reviewed by one.');
			const { mailbox, owner } = found;
			if (await openReview(db, mailboxId, today(context))) throw refuse(`The owner of ${mailbox} was asked already.`);
			const by = { askedBy: context.actor.name, askedOn: today(context) };
			const messages = await addReview(db, { mailboxId, until, because, ...by });
			if (messages === 0) throw refuse(`Nothing would go from ${mailbox} by that day.`);
			await appendLedger(db, {
				at: context.now(),
				by: context.actor,
				action: 'review-asked',
				details: { mailbox, owner, until, because, messages }
			});
			asked.push({ mailbox, owner, messages });
		}
		return asked;
	});
}

/** All reviews with their counts. */
export async function listedReviews(context: Context): Promise<ReviewView[]> {
	const owners = new Map((await listOwners(context.db)).map(({ mailboxId, owner }) => [mailboxId, owner]));
	return (await listReviews(context.db)).map((review) => ({
		...review,
		owner: owners.get(review.mailboxId) ?? 'nobody any more',
		isOver: review.endedOn !== null || review.until <= today(context)
	}));
}

/* The mailboxes whose owners can be asked. */
async function ownedMailboxes({ db }: Context): Promise<{ mailboxId: number; mailbox: string; owner: string }[]> {
	return listOwners(db);
}

async function requireReview({ db }: Context, reviewId: number): Promise<Review> {
	const review = await getReview(db, reviewId);
	if (!review) throw new Refusal('not-found', 'There is no such review. Nothing was done.');
	return review;
}

/** Notes that the owner has reviewed it; its mail stays until the day all the same. @throws Refusal */
export async function answerReview(context: Context, input: { id: number }): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const { id: reviewId, mailboxId, mailbox, kept, changed, messages } = await requireReview(within, input.id);
		await requireOwn(within, mailboxId);
		await putReview(db, reviewId, { answered_on: today(context) });
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'review-answered',
			details: { mailbox, kept, changed, messages }
		});
	});
}

/** Ends a review before its day. @throws Refusal */
export async function endReview(context: Context, input: { id: number }): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const { id: reviewId, mailbox, until } = await requireReview({ ...context, db }, input.id);
		await putReview(db, reviewId, { ended_on: today(context) });
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'review-ended',
			details: { mailbox, until }
		});
	});
}

const reviewInput = () => Joi.object({ id: id.required() }).required();

/** The use cases of this file. */
export const reviewsUseCases = [
	defineUseCase({
		name: 'askReviews',
		input: () =>
			Joi.object({
				mailboxIds: Joi.array().items(id).max(1_000).required(),
				until: text.required(),
				because: text.required()
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: askReviews
	}),
	defineUseCase({ name: 'listedReviews', thread: 'heavy', right: 'administrator', run: listedReviews }),
	defineUseCase({ name: 'ownedMailboxes', thread: 'reader', right: 'administrator', run: ownedMailboxes }),
	defineUseCase({ name: 'answerReview', input: reviewInput, thread: 'writer', right: 'finder', run: answerReview }),
	defineUseCase({ name: 'endReview', input: reviewInput, thread: 'writer', right: 'administrator', run: endReview })
] as const;
