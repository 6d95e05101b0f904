import { type CalendarDate, daysAfter, daysBetween } from '../../../core/calendar.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import { inTransaction, sql } from '../database/index.ts';
import { Refusal } from '../refusal.ts';
import {
	type Decided,
	carryOutScheduled,
	type Docket,
	type DocketView,
	listDockets,
	prepareDocket,
	putOnSlip,
	viewDocket
} from '../docket/index.ts';
import {
	type ItemRow,
	itemsWhere,
	listMailboxes,
	type Mailbox,
	type MailboxRef,
	putAddressed,
	putClearing,
	requireMailbox,
	requireMailboxId,
	weighBinned
} from '../mail/index.ts';
import { appendLedger } from '../ledger/index.ts';
import { activePauses, type Pause } from '../standing/index.ts';
import { type Context, count, defineUseCase, id, mailboxRef, text, today } from '../context/index.ts';
import { doEach } from '../do-each.ts';
import Joi from 'joi';

/** The content of a mailbox's bin. */
export interface Bin extends Weight {
	mailbox: Mailbox;
	today: CalendarDate;
	items: (ItemRow & { daysLeft: number })[];
	/** What can be destroyed today by its days, and what is added tomorrow. */
	due: Weight;
	dueTomorrow: Weight;
	pauses: Pause[];
}

/* Mail binned on this day or before has been in the bin for all its days. */
const dueBy = (context: Context, mailbox: Mailbox): CalendarDate => daysAfter(today(context), -mailbox.binDays);

const daysLeft = (context: Context, mailbox: Mailbox, binnedOn: string | null) =>
	Math.max(0, mailbox.binDays - daysBetween(binnedOn ?? today(context), today(context)));

/** A page of the bin, ordered by due date. */
export async function listBin(
	context: Context,
	input: { mailboxId: number; offset?: number | undefined; limit: number }
): Promise<Bin> {
	const mailbox = await requireMailboxId(context, input.mailboxId);
	const { db } = context;
	const { items, total } = await itemsWhere(
		db,
		sql`item.mailbox_id = ${mailbox.id} AND item.state = 'binned'`,
		input.limit,
		input.offset ?? 0,
		sql`item.binned_on, item.id`
	);
	const day = dueBy(context, mailbox);
	const all = await weighBinned(db, mailbox.id, undefined);
	const due = await weighBinned(db, mailbox.id, day);
	const tomorrow = await weighBinned(db, mailbox.id, daysAfter(day, 1));
	return {
		mailbox,
		today: today(context),
		messages: total,
		bytes: all.bytes,
		items: items.map((item) => ({ ...item, daysLeft: daysLeft(context, mailbox, item.binnedOn) })),
		due,
		dueTomorrow: { messages: tomorrow.messages - due.messages, bytes: tomorrow.bytes - due.bytes },
		pauses: await activePauses(db, mailbox.id, today(context))
	};
}

/* An unfinished docket that empties the bin, by anybody. */
async function unfinishedEmptying({ db }: Context, mailboxId: number): Promise<Docket | undefined> {
	const begun = await listDockets(db, { mailboxId, states: ['carrying-out'], limit: 100 });
	return begun.find(({ lines }) => lines.length === 1 && lines[0]?.scope.kind === 'bin');
}

/**
 * Drafts a docket that destroys the bin's content, or only what has been there for all its days. An unfinished one is
 * continued instead, so that there is one docket with one certificate.
 *
 * @throws Refusal if the unfinished one destroys more than is asked for
 */
export async function prepareEmptying(
	context: Context,
	input: { mailboxId: number; onlyDue: boolean }
): Promise<DocketView> {
	const mailbox = await requireMailboxId(context, input.mailboxId);
	const begun = await unfinishedEmptying(context, mailbox.id);
	if (begun) {
		const scope = begun.lines[0]?.scope;
		if (input.onlyDue && scope?.kind === 'bin' && scope.binnedBy === undefined)
			throw new Refusal(
				'not-possible',
				`Docket ${begun.id} was stopped while it emptied the whole bin: go on with it first. Nothing was done.`
			);
		await inTransaction(context.db, (db) => putOnSlip(db, context.actor, begun.id));
		return viewDocket(begun, mailbox);
	}
	const line = emptying(input.onlyDue ? dueBy(context, mailbox) : undefined);
	return prepareDocket(context, { mailboxId: mailbox.id, lines: [line], onSlip: true });
}

/* The line that destroys mail binned by a day; undefined: all of it. */
const emptying = (binnedBy: CalendarDate | undefined): Decided => ({
	decision: 'destroy',
	options: {},
	scope: { kind: 'bin', binnedBy }
});

/** A mailbox's settings for clearing; only those given change. */
export interface ClearingSettings {
	mailbox: MailboxRef;
	binDays?: number | undefined;
	emptiesBin?: boolean | undefined;
	confirmAbove?: number | undefined;
	inboxAim?: number | undefined;
	addresses?: string[] | undefined;
	junkDays?: number | undefined;
	clearsJunk?: boolean | undefined;
}

const whole = (value: number, least: number, most: number) =>
	Number.isInteger(value) && value >= least && value <= most;

/** Sets how a mailbox is cleared. @throws Refusal */
export async function setClearing(context: Context, input: ClearingSettings): Promise<Mailbox> {
	const { mailbox: name, ...given } = input;
	const refuse = (message: string) => new Refusal('bad-input', `${message} Nothing was changed.`);
	if (given.binDays !== undefined && !whole(given.binDays, 1, 3650))
		throw refuse('Deleted mail stays in the bin for 1 to 3,650 days.');
	if (given.confirmAbove !== undefined && !whole(given.confirmAbove, 0, 1_000_000))
		throw refuse('The number above which the name is asked for is a whole number.');
	if (given.inboxAim !== undefined && !whole(given.inboxAim, 0, 1_000_000))
		throw refuse('The number aimed at in the inbox is a whole number.');
	if (given.junkDays !== undefined && !whole(given.junkDays, 1, 3650)) throw refuse('Junk stays for 1 to 3,650 days.');
	const addresses = given.addresses?.map((address) => address.trim().toLowerCase());
	if (addresses?.some((address) => !/^[^\s@|]+@[^\s@|]+$/.test(address)))
		throw refuse('An address of the mailbox is written like office@skerryline.example.');
	return inTransaction(context.db, async (db) => {
		const mailbox = await requireMailbox({ ...context, db }, name);
		const set = Object.fromEntries(Object.entries({ ...given, addresses }).filter(([, value]) => value !== undefined));
		const next: Mailbox = { ...mailbox, ...set };
		await putClearing(db, mailbox.id, next);
		// these groupings tell how a message addresses the owner
		if (addresses) await putAddressed(db, mailbox.id, addresses, 0);
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'clearing-set',
			details: {
				mailbox: mailbox.name,
				...set,
				before: Object.fromEntries(Object.keys(set).map((key) => [key, mailbox[key as keyof Mailbox]]))
			}
		});
		return next;
	});
}

/** Name of the scheduled run's dockets. */
export const NIGHTLY = 'Nightly emptying of the bin';

/** The result of a scheduled run for a mailbox's bin. */
export interface Night {
	mailboxId: number;
	mailbox: string;
	/** What was destroyed, or what the drafted docket would destroy. */
	messages: number;
	/** Undefined if nothing was due. */
	docket?: number;
	/** Whether a person has to carry the docket out. */
	asks: boolean;
	/** What falls due the night after, so that a day is left to look at it. */
	tomorrow: number;
}

/**
 * Destroys mail that has been in the bin for all its days, in mailboxes switched on for it; the first time, a person
 * is asked.
 */
export async function emptyDueBins(context: Context): Promise<Night[]> {
	const nights: Night[] = [];
	const empty = async (mailbox: Mailbox) => {
		const day = dueBy(context, mailbox);
		const { messages } = await weighBinned(context.db, mailbox.id, day);
		const tomorrow = (await weighBinned(context.db, mailbox.id, daysAfter(day, 1))).messages - messages;
		const night: Night = { mailboxId: mailbox.id, mailbox: mailbox.name, messages, asks: false, tomorrow };
		if (messages === 0) {
			if (tomorrow > 0) nights.push(night);
			return;
		}
		const done = await carryOutScheduled(context, mailbox, { name: NIGHTLY, lines: [emptying(day)] });
		if (done) nights.push({ ...night, docket: done.docket.id, messages: done.docket.messages, asks: done.asks });
	};
	await doEach(
		context,
		(await listMailboxes(context.db))
			.filter(({ emptiesBin }) => emptiesBin)
			.map((mailbox) => ({ name: mailbox.name, work: () => empty(mailbox) }))
	);
	return nights;
}

/** The use cases of this file. */
export const binUseCases = [
	defineUseCase({
		name: 'listBin',
		input: () => Joi.object({ mailboxId: id.required(), offset: count, limit: count.required() }).required(),
		thread: 'reader',
		right: 'administrator',
		run: listBin
	}),
	defineUseCase({
		name: 'prepareEmptying',
		input: () => Joi.object({ mailboxId: id.required(), onlyDue: Joi.boolean().required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: prepareEmptying
	}),
	defineUseCase({
		name: 'setClearing',
		input: () =>
			Joi.object({
				mailbox: mailboxRef.required(),
				binDays: Joi.number(),
				emptiesBin: Joi.boolean(),
				confirmAbove: Joi.number(),
				inboxAim: Joi.number(),
				addresses: Joi.array().items(text),
				junkDays: Joi.number(),
				clearsJunk: Joi.boolean()
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: setClearing
	})
] as const;
