import { quotedValue } from '../../../core/search/quoted-value.ts';
import type { DecisionOptions } from '../../../core/docket/decision.ts';
import { type CalendarDate, daysAfter } from '../../../core/calendar.ts';
import type { Decision } from '../../../core/docket/decisions.ts';
import { likelyOf } from '../../../core/docket/likely.ts';
import { type Context, defineUseCase, id, today } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import type { DecisionResult } from '../docket/index.ts';
import { countFound, decideMessages, decisionInput, type MessagesDecision } from '../find/index.ts';
import { findRole, requireMailboxId, weighInbox } from '../mail/index.ts';
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

/** The desk of a mailbox. */
interface Desk {
	mailbox: { id: number; name: string };
	/** Messages in the inbox, and how many are aimed at. */
	inbox: { messages: number; aim: number; folderId: number | undefined };
	bundles: { bundle: Bundle; query: string; messages: number; isMore: boolean }[];
	piles: Pile[];
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

/** What waits at the desk of a mailbox, and what was decided there last. @throws Refusal */
export async function showDesk(context: Context, input: { mailboxId: number }): Promise<Desk> {
	const { db, actor } = context;
	const mailbox = await requireMailboxId(context, input.mailboxId);
	const { messages } = await weighInbox(db, mailbox.id);
	const folderId = (await findRole(db, mailbox.id, 'inbox'))?.id;
	const bundles: Desk['bundles'] = [];
	for (const bundle of BUNDLES) {
		const query = queryOf(bundle, mailbox.addresses);
		if (bundle === 'copied' && query === '') continue;
		const found = await countFound(context, {
			query,
			mailbox: mailbox.id,
			states: ['live'],
			// a mailbox without an inbox has everything on the desk
			...(bundle === 'waited'
				? { gathered: { of: 'waited' as const } }
				: { narrowing: { mailbox: mailbox.id, ...(folderId === undefined ? {} : { folder: folderId }) } })
		});
		bundles.push({ bundle, query, messages: Math.min(found, COUNTED_AT_MOST), isMore: found > COUNTED_AT_MOST });
	}
	return {
		mailbox: { id: mailbox.id, name: mailbox.name },
		inbox: { messages, aim: mailbox.inboxAim, folderId },
		bundles,
		piles: await listPiles(db, mailbox.id, today(context)),
		newLists: await newListsOf(context, mailbox.id),
		last: await lastDeskDecisions(db, mailbox.id, actor.personId, TAKEN_BACK_AT_MOST)
	};
}

const NEW_LISTS_SHOWN = 3;
/* Who has never looked is told of the lists of the last month. */
const FIRST_LOOK_DAYS = 30;

async function newListsOf(context: Context, mailboxId: number): Promise<Desk['newLists']> {
	const since =
		(await lastListLook(context.db, mailboxId, context.actor.name)) ?? daysAfter(today(context), -FIRST_LOOK_DAYS);
	const names = await listsSince(context.db, mailboxId, since);
	return { names: names.slice(0, NEW_LISTS_SHOWN), lists: names.length, since };
}

/** Notes that a person has seen which lists are new. @throws Refusal */
async function noteListLook(context: Context, input: { mailboxId: number }): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const { id: mailboxId } = await requireMailboxId({ ...context, db }, input.mailboxId);
		await putListLook(db, mailboxId, context.actor.name, today(context));
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
		input: () => Joi.object({ mailboxId: id.required() }).required(),
		thread: 'reader',
		right: 'administrator',
		run: showDesk
	}),
	defineUseCase({
		name: 'noteListLook',
		input: () => Joi.object({ mailboxId: id.required() }).required(),
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
