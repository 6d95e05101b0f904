import { inTransaction } from '../database/index.ts';
import { Refusal } from '../refusal.ts';
import { findFolder, requireMailbox } from '../mail/index.ts';
import { ownMailboxes, withinReach } from '../access/index.ts';
import { appendLedger } from '../ledger/index.ts';
import {
	addRequest,
	countOpenRequests,
	countUnseenAnswers,
	getRequest,
	listRequests as storedRequests,
	noticeAnswersOf,
	putAnswer,
	putSavedSearch,
	removeSavedSearch,
	type Request,
	type RequestItem,
	requestItems,
	requestsOf,
	type SavedSearch,
	savedSearches
} from './requests-store.ts';
import { type Context, defineUseCase, id, text } from '../context/index.ts';
import { grant } from './people.ts';
import { carryOut, itemsByMailbox, prepareDocket } from '../docket/index.ts';
import { restore } from '../find/index.ts';
import Joi from 'joi';

const refuse = (sentence: string) => new Refusal('bad-input', `${sentence} Nothing was done.`);

function requirePersonId({ actor }: Context): number {
	if (actor.personId === null) throw new Refusal('not-possible', 'Nobody is signed in. Nothing was done.');
	return actor.personId;
}

/** The content of a request. */
export type RequestInput = { because: string } & (
	{ ids: number[]; keep?: boolean | undefined } | { mailbox: string; folder?: string | undefined }
);

/* A request for more messages should be one for a folder. */
const MOST_MESSAGES = 1_000;
const LONGEST_WORD = 2_000;

/**
 * Requests messages that one may find but not restore, or more access.
 *
 * @returns the numbers of the requests: one for each mailbox
 * @throws Refusal
 */
export async function makeRequest(context: Context, input: RequestInput): Promise<number[]> {
	const personId = requirePersonId(context);
	const because = input.because.trim().slice(0, LONGEST_WORD);
	if (because === '') throw refuse('Say why: whoever decides has only your word to go by.');
	const madeAt = context.now().toISOString();
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const note = (id: number, details: Record<string, unknown>) =>
			appendLedger(db, {
				at: context.now(),
				by: context.actor,
				action: 'request-made',
				details: { request: id, because, ...details }
			});
		if ('mailbox' in input) {
			const mailbox = await requireMailbox(within, input.mailbox);
			// nobody learns from asking whether there is such a folder: it is asked for by its name (invariant 20)
			const folder = input.folder ? await findFolder(db, mailbox.id, 'mailbox', input.folder) : undefined;
			const id = await addRequest(db, {
				personId,
				mailboxId: mailbox.id,
				wish: 'reach',
				folderId: folder?.id ?? null,
				folderName: input.folder?.trim() ?? null,
				because,
				madeAt,
				ids: []
			});
			await note(id, { mailbox: mailbox.name, folder: input.folder?.trim(), wish: 'to find mail there' });
			return [id];
		}
		const seen = await withinReach(within, input.ids.slice(0, MOST_MESSAGES), 'find');
		if (seen.length === 0 || input.ids.length > MOST_MESSAGES)
			throw refuse(`Select up to ${MOST_MESSAGES} messages that you have found.`);
		const { mailboxes } = await itemsByMailbox(within, seen);
		const wish = input.keep ? 'keep' : 'restore';
		const own = new Set((await ownMailboxes(db, personId)).map(({ id }) => id));
		if (input.keep && [...mailboxes.keys()].some((id) => !own.has(id)))
			throw refuse('That messages are kept is for the owner of their mailbox to ask.');
		const made: number[] = [];
		for (const [mailboxId, ids] of mailboxes) {
			const id = await addRequest(db, {
				personId,
				mailboxId,
				wish,
				folderId: null,
				folderName: null,
				because,
				madeAt,
				ids
			});
			await note(id, { wish: input.keep ? 'to keep messages' : 'to have messages restored', messages: ids.length });
			made.push(id);
		}
		return made;
	});
}

/** A request with its messages or access. */
export interface RequestView extends Request {
	items: RequestItem[];
	destroyed: number;
	held: number;
}

const SHOWN = 50;

async function viewRequest({ db }: Context, request: Request): Promise<RequestView> {
	const items = await requestItems(db, request.id, MOST_MESSAGES);
	return {
		...request,
		items: items.slice(0, SHOWN),
		destroyed: items.filter(({ state }) => state === null).length,
		held: items.filter(({ isHeld }) => isHeld === 1).length
	};
}

/** The open requests, and the last answered ones. */
export async function listRequests(context: Context): Promise<{ open: RequestView[]; answered: RequestView[] }> {
	const view = (requests: Request[]) => Promise.all(requests.map((request) => viewRequest(context, request)));
	return {
		open: await view(await storedRequests(context.db, 'open', 100)),
		answered: await view(await storedRequests(context.db, 'answered', 20))
	};
}

/** How many requests wait for an answer. */
export async function countRequests({ db }: Context): Promise<number> {
	return countOpenRequests(db);
}

/** The person's own requests, with the answers. */
export async function myRequests(context: Context): Promise<RequestView[]> {
	const requests = await requestsOf(context.db, requirePersonId(context), 50);
	return Promise.all(
		requests.map(async (request) => {
			const view = await viewRequest(context, request);
			const seen = new Set(
				await withinReach(
					context,
					view.items.map(({ itemId }) => itemId),
					'find'
				)
			);
			return {
				...view,
				folder: view.folderName ?? view.folder,
				items: view.items.map((item) => (seen.has(item.itemId) ? item : unseen(item)))
			};
		})
	);
}

/* A message that the person may not find any more, as after a grant ended. */
const unseen = (item: RequestItem): RequestItem =>
	item.state === null
		? item
		: { ...item, subject: 'You may not see this message any more', fromName: '', fromAddress: '', folder: '' };

/** Records that the person has read the answers. */
export async function noticeAnswers(context: Context): Promise<void> {
	await noticeAnswersOf(context.db, requirePersonId(context), context.now().toISOString());
}

/* Keeps the messages by a decision through a docket: no scheduled run deletes them any more. */
async function keepAll(context: Context, request: Request, items: readonly RequestItem[]): Promise<number> {
	const draft = await prepareDocket(context, {
		mailboxId: request.mailboxId,
		name: `Request ${request.id} of ${request.person}`,
		lines: [{ decision: 'keep', options: {}, scope: { kind: 'items', ids: items.map(({ itemId }) => itemId) } }]
	});
	return (await carryOut(context, { id: draft.id })).messages;
}

/** How many answers the person has not read. */
export async function countAnswers({ db, actor }: Context): Promise<number> {
	return actor.personId === null ? 0 : countUnseenAnswers(db, actor.personId);
}

/** An administrator's answer. */
export interface Answer {
	id: number;
	/** Messages to be restored. Undefined: all. */
	ids?: number[] | undefined;
	decline?: boolean | undefined;
	word: string;
	/** Access to be granted, and its last day. */
	restore?: boolean | undefined;
	until?: string | undefined;
}

/**
 * Answers a request: grants it, in part, or declines it with a reason. A grant takes effect at once.
 *
 * @throws Refusal
 */
export async function answerRequest(context: Context, input: Answer): Promise<RequestView> {
	const request = await getRequest(context.db, input.id);
	if (!request) throw new Refusal('not-found', `There is no request ${input.id}. Nothing was done.`);
	if (request.state !== 'open')
		throw new Refusal('changed', `${request.answeredBy} has answered this request already. Nothing was done.`);
	const word = input.word.trim().slice(0, LONGEST_WORD);
	if (input.decline && word === '') throw refuse('Say why it is declined: the colleague sees your word.');
	let restored = 0;
	let state: Request['state'] = 'granted';
	if (input.decline) state = 'declined';
	else if (request.wish === 'reach')
		await grant(context, {
			to: request.person,
			mailbox: request.mailbox,
			folder: request.folder ?? undefined,
			find: true,
			restore: input.restore ?? false,
			until: input.until || undefined
		});
	else {
		const items = await requestItems(context.db, request.id, MOST_MESSAGES);
		const wanted = input.ids === undefined ? undefined : new Set(input.ids);
		const selected = items.filter(({ itemId, state }) => state !== null && (wanted?.has(itemId) ?? true));
		if (selected.length === 0)
			throw refuse(
				items.every((item) => item.state === null)
					? 'All of these messages were destroyed: decline it with a word.'
					: 'Select at least one message, or decline.'
			);
		if (request.wish === 'keep') restored = await keepAll(context, request, selected);
		// live messages need no restoring
		const away = request.wish === 'keep' ? [] : selected.filter((item) => item.state !== 'live');
		if (away.length > 0) restored = (await restore(context, { ids: away.map(({ itemId }) => itemId) })).restored;
		if (selected.length < items.length || restored < away.length) state = 'in-part';
	}
	return inTransaction(context.db, async (db) => {
		if ((await getRequest(db, request.id))?.state !== 'open')
			throw new Refusal(
				'changed',
				'Somebody else has answered this request meanwhile: both answers were carried out, theirs stands.'
			);
		await putAnswer(db, request.id, {
			state,
			word,
			restored,
			answeredAt: context.now().toISOString(),
			answeredBy: context.actor.name
		});
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'request-answered',
			details: { request: request.id, to: request.person, mailbox: request.mailbox, state, restored, because: word }
		});
		return viewRequest({ ...context, db }, (await getRequest(db, request.id)) as Request);
	});
}

/** The person's saved searches. */
export async function listSaved(context: Context): Promise<SavedSearch[]> {
	return context.actor.personId === null ? [] : savedSearches(context.db, context.actor.personId);
}

/** Saves or removes a search. @throws Refusal */
export async function changeSaved(
	context: Context,
	input: { name: string; question: string } | { forget: number }
): Promise<void> {
	const personId = requirePersonId(context);
	if ('name' in input && input.name.trim() === '') throw refuse('A search that is kept needs a name.');
	await inTransaction(context.db, (db) =>
		'forget' in input
			? removeSavedSearch(db, personId, input.forget)
			: putSavedSearch(db, personId, input.name.trim().slice(0, 100), input.question.slice(0, 2_000))
	);
}

/** The use cases of this file. */
export const requestsUseCases = [
	defineUseCase({
		name: 'listSaved',
		thread: 'reader',
		right: 'finder',
		run: listSaved
	}),
	defineUseCase({
		name: 'myRequests',
		thread: 'reader',
		right: 'finder',
		run: myRequests
	}),
	defineUseCase({
		name: 'listRequests',
		thread: 'reader',
		right: 'administrator',
		run: listRequests
	}),
	defineUseCase({
		name: 'countAnswers',
		thread: 'reader',
		right: 'finder',
		run: countAnswers
	}),
	defineUseCase({
		name: 'countRequests',
		thread: 'reader',
		right: 'administrator',
		run: countRequests
	}),
	defineUseCase({
		name: 'makeRequest',
		input: () =>
			Joi.alternatives(
				Joi.object({ because: text.required(), ids: Joi.array().items(id).required(), keep: Joi.boolean() }),
				Joi.object({ because: text.required(), mailbox: text.required(), folder: text })
			).required(),
		thread: 'writer',
		right: 'finder',
		run: makeRequest
	}),
	defineUseCase({
		name: 'answerRequest',
		input: () =>
			Joi.object({
				id: id.required(),
				ids: Joi.array().items(id),
				decline: Joi.boolean(),
				word: text.required(),
				restore: Joi.boolean(),
				until: text
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: answerRequest
	}),
	defineUseCase({
		name: 'noticeAnswers',
		thread: 'writer',
		right: 'finder',
		run: noticeAnswers
	}),
	defineUseCase({
		name: 'changeSaved',
		input: () =>
			Joi.alternatives(
				Joi.object({ name: text.required(), question: text.required() }),
				Joi.object({ forget: Joi.number().required() })
			).required(),
		thread: 'writer',
		right: 'finder',
		run: changeSaved
	})
] as const;
