import { quotedValue } from '../../../core/search/quoted-value.ts';
import type { DecisionOptions } from '../../../core/docket/decision.ts';
import { type CalendarDate, daysAfter } from '../../../core/calendar.ts';
import type { Decision } from '../../../core/docket/decisions.ts';
import { likelyOf } from '../../../core/docket/likely.ts';
import { type Context, defineUseCase, id, mailboxIds, today } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import type { DecisionResult } from '../docket/index.ts';
import { countFound, decideMessages, decisionInput, type MessagesDecision } from '../find/index.ts';
import { findRole, type Mailbox, requireMailboxes, weighInbox } from '../mail/index.ts';
import {
	decisionsOnSender,
	type DeskDecision,
	lastDeskDecisions,
	lastListLook,
	eventOf,
	listsSince,
	noteDeskDecision,
	putListLook
} from './desk-store.ts';
import { listPiles, type Pile, waitingOf } from './piles-store.ts';
import Joi from 'joi';

/** What waits at the desk: one kind of mail in the inbox. */
const BUNDLES = ['waited', 'unread', 'inbox', 'flagged', 'copied', 'lists', 'orders', 'travel'] as const;
export type Bundle = (typeof BUNDLES)[number];

const TAKEN_BACK_AT_MOST = 10;

/** The desk of one mailbox, or of several as one. */
interface Desk {
	mailboxes: { id: number; name: string }[];
	/** Messages in the inboxes, and how many are aimed at; the folder of one mailbox. */
	inbox: { messages: number; aim: number; folderId: number | undefined };
	bundles: { bundle: Bundle; query: string; messages: number; isMore: boolean }[];
	piles: (Pile & { mailboxId: number; mailbox: string })[];
	/** The last decisions that can be taken back, the newest first. */
	last: DeskDecision[];
	/** Lists from which mail came for the first time since this person looked last. */
	newLists: { names: string[]; lists: number; since: CalendarDate };
}

/* Only copied to this mailbox: its own addresses stand among the copies, and not among the recipients. */
function copiedQuery(addresses: readonly string[]): string {
	const said = (key: string) => addresses.map((address) => quotedValue(address, key)).join(' or ');
	return addresses.length === 0 ? '' : `(${said('cc')}) not (${said('to')})`;
}

function queryOf(bundle: Bundle, addresses: readonly string[]): string {
	switch (bundle) {
		case 'unread':
			return 'unread';
		case 'inbox':
		case 'waited':
			return '';
		case 'flagged':
			return 'flagged';
		case 'copied':
			return copiedQuery(addresses);
		case 'lists':
			return 'kind:list or kind:advertisement';
		case 'orders':
			return 'kind:notice';
		case 'travel':
			return 'kind:travel';
	}
}

const COUNTED_AT_MOST = 10_000;

/* The part of a search that finds what lies on the desk. One inbox is found by its own index. */
function onDesk(mailboxes: readonly Mailbox[], folderId: number | undefined) {
	const [only] = mailboxes;
	if (only && mailboxes.length === 1)
		return {
			mailbox: only.id,
			narrowing: { mailbox: only.id, ...(folderId === undefined ? {} : { folder: folderId }) }
		};
	return { mailboxIds: mailboxes.map(({ id }) => id), gathered: { of: 'inbox' as const } };
}

/**
 * What waits at the desk of some mailboxes, and what was decided there last.
 *
 * @param input.mailboxIds undefined: all mailboxes
 * @throws Refusal
 */
export async function showDesk(context: Context, input: { mailboxIds?: number[] | undefined }): Promise<Desk> {
	const { db, actor } = context;
	const mailboxes = await requireMailboxes(context, input.mailboxIds);
	const ids = mailboxes.map(({ id }) => id);
	const isOne = ids.length === 1;
	const folderId = isOne ? (await findRole(db, ids[0] as number, 'inbox'))?.id : undefined;
	const bundles: Desk['bundles'] = [];
	for (const bundle of BUNDLES) {
		// which addresses are its own differs from mailbox to mailbox
		if (bundle === 'copied' && !isOne) continue;
		const query = queryOf(bundle, mailboxes[0]?.addresses ?? []);
		if (bundle === 'copied' && query === '') continue;
		const place = onDesk(mailboxes, folderId);
		const found = await countFound(context, {
			query,
			states: ['live'],
			...place,
			...(bundle === 'waited' ? { narrowing: {}, gathered: { of: 'waited' as const } } : {})
		});
		bundles.push({ bundle, query, messages: Math.min(found, COUNTED_AT_MOST), isMore: found > COUNTED_AT_MOST });
	}
	return {
		mailboxes: mailboxes.map(({ id, name }) => ({ id, name })),
		inbox: {
			messages: (await Promise.all(ids.map((id) => weighInbox(db, id)))).reduce(
				(sum, { messages }) => sum + messages,
				0
			),
			aim: mailboxes.reduce((sum, { inboxAim }) => sum + inboxAim, 0),
			folderId
		},
		bundles,
		piles: await pilesOf(context, mailboxes),
		newLists: await newListsOf(context, ids),
		last: await lastDeskDecisions(db, ids, actor.personId, TAKEN_BACK_AT_MOST)
	};
}

const NEW_LISTS_SHOWN = 3;
/* Who has never looked is told of the lists of the last month. */
const FIRST_LOOK_DAYS = 30;

async function newListsOf(context: Context, mailboxIds: readonly number[]): Promise<Desk['newLists']> {
	const names = new Set<string>();
	let earliest = today(context);
	for (const id of mailboxIds) {
		const since =
			(await lastListLook(context.db, id, context.actor.name)) ?? daysAfter(today(context), -FIRST_LOOK_DAYS);
		for (const name of await listsSince(context.db, id, since)) names.add(name);
		if (since < earliest) earliest = since;
	}
	return { names: [...names].slice(0, NEW_LISTS_SHOWN), lists: names.size, since: earliest };
}

async function pilesOf(context: Context, mailboxes: readonly Mailbox[]): Promise<Desk['piles']> {
	const piles: Desk['piles'] = [];
	for (const { id, name } of mailboxes)
		for (const pile of await listPiles(context.db, id, today(context)))
			piles.push({ ...pile, mailboxId: id, mailbox: name });
	return piles;
}

/** Notes that a person has seen which lists are new. @throws Refusal */
async function noteListLook(context: Context, input: { mailboxIds?: number[] | undefined }): Promise<void> {
	await inTransaction(context.db, async (db) => {
		for (const { id } of await requireMailboxes({ ...context, db }, input.mailboxIds))
			await putListLook(db, id, context.actor.name, today(context));
	});
}

/**
 * Decides on messages at the desk, as on every sheet, and remembers it: for taking it back, and for what is likely for the
 * next message of the same sender.
 *
 * @throws Refusal
 */
export async function decideAtDesk(context: Context, input: MessagesDecision): Promise<DecisionResult[]> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const decided = await decideMessages(within, input);
		for (const { docket, isDone, messages } of decided)
			if (docket !== undefined && isDone && messages > 0 && input.ids)
				await noteDeskDecision(db, {
					itemIds: input.ids,
					personId: context.actor.personId,
					decision: input.decision,
					options: input.options,
					docketId: docket,
					at: context.now()
				});
		return decided;
	});
}

/** The decision that is likely for a message: four of the last five on its sender's mail were alike. */
export async function likelyDecision(
	{ db }: Pick<Context, 'db'>,
	input: { itemId: number }
): Promise<{ decision: Decision; options: DecisionOptions } | null> {
	const last = await decisionsOnSender(db, input.itemId, 5);
	const found = likelyOf(last.map(({ decision, options }) => `${decision} ${options}`));
	if (found === undefined) return null;
	const at = found.indexOf(' ');
	return {
		decision: found.slice(0, at) as Decision,
		options: JSON.parse(found.slice(at + 1)) as DecisionOptions
	};
}

/** What stands beside a message on the desk. */
interface Beside {
	/** The likely decision. */
	likely: Awaited<ReturnType<typeof likelyDecision>>;
	/** Why it waited, and until when. */
	waits: { because: string; until: string | null; since: string } | null;
	/** The last day of the event to which it invites, if that is still to come. */
	eventEndsOn: CalendarDate | null;
}

/** What stands beside a message on the desk: the likely decision, and why it waited. */
async function besideOnDesk(context: Context, input: { itemId: number }): Promise<Beside> {
	const { eventEndsOn = null } = (await eventOf(context.db, input.itemId)) ?? {};
	return {
		likely: await likelyDecision(context, input),
		waits: (await waitingOf(context.db, input.itemId)) ?? null,
		eventEndsOn: eventEndsOn !== null && eventEndsOn > today(context) ? eventEndsOn : null
	};
}

/** The use cases of this file. */
export const deskUseCases = [
	defineUseCase({
		name: 'showDesk',
		input: () => Joi.object({ mailboxIds }).required(),
		thread: 'reader',
		right: 'administrator',
		isRemembered: true,
		run: showDesk
	}),
	defineUseCase({
		name: 'noteListLook',
		input: () => Joi.object({ mailboxIds }).required(),
		thread: 'writer',
		right: 'administrator',
		run: noteListLook
	}),
	defineUseCase({
		name: 'decideAtDesk',
		input: decisionInput,
		thread: 'writer',
		right: 'administrator',
		run: decideAtDesk
	}),
	defineUseCase({
		name: 'besideOnDesk',
		input: () => Joi.object({ itemId: id.required() }).required(),
		thread: 'reader',
		right: 'administrator',
		run: besideOnDesk
	})
] as const;
