import Joi from 'joi';
import { FETCH_ORDERS, type Fetching, USUAL_FETCHING, wrongFetching } from '../../../core/sources/fetching.ts';
import { type Context, defineUseCase, mailboxRef } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import { appendLedger } from '../ledger/index.ts';
import type { MailboxRef } from '../mail/index.ts';
import { Refusal } from '../refusal.ts';
import { requireSource } from './require-source.ts';
import { putFetching } from './sources-store.ts';

/** How mail is to be fetched; what is not given stays. @throws Refusal */
export function fetchingGiven(given: Partial<Fetching>, former: Fetching = USUAL_FETCHING): Fetching {
	const fetching: Fetching = {
		fetchFirst: given.fetchFirst ?? former.fetchFirst,
		bytesASecond: given.bytesASecond === undefined ? former.bytesASecond : given.bytesASecond,
		connections: given.connections ?? former.connections
	};
	const wrong = wrongFetching(fetching);
	if (wrong) throw new Refusal('bad-input', `${wrong}. Nothing was changed.`);
	return fetching;
}

/** The fields of how mail is fetched. */
export const fetchingFields = {
	fetchFirst: Joi.valid(...FETCH_ORDERS),
	bytesASecond: Joi.number().allow(null),
	connections: Joi.number()
};

/**
 * Says in which order, how fast and over how many connections the mail of a live mailbox is fetched; what is not given
 * stays. A pass that is under way goes on as it began.
 *
 * @throws Refusal
 */
export async function setFetching(
	context: Context,
	input: { mailbox: MailboxRef } & Partial<Fetching>
): Promise<Fetching & { mailbox: string }> {
	return inTransaction(context.db, async (db) => {
		const { mailbox, source } = await requireSource({ ...context, db }, input.mailbox);
		const fetching = fetchingGiven(input, source);
		await putFetching(db, source.id, fetching);
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'source-changed',
			details: { mailbox: mailbox.name, host: source.host, ...fetching }
		});
		return { mailbox: mailbox.name, ...fetching };
	});
}

/** The use cases of this file. */
export const setFetchingUseCases = [
	defineUseCase({
		name: 'setFetching',
		input: () =>
			Joi.object({
				mailbox: mailboxRef.required(),
				...fetchingFields
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: setFetching
	})
] as const;
