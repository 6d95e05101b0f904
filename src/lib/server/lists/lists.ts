import { type CalendarDate, daysAfter, monthsBefore } from '../../../core/calendar.ts';
import { organisationOf } from '../../../core/message/addresses.ts';
import { judge, type SenderMark, type Verdict } from '../../../core/lists/senders.ts';
import { type Standing, standingOf, standingSentence, USUAL_GRACE_DAYS } from '../../../core/lists/standing.ts';
import { type WayKind, waysOf } from '../../../core/lists/ways.ts';
import { changeNumber, type Db, getSetting, inTransaction, putSetting } from '../database/index.ts';
import { Refusal } from '../refusal.ts';
import { digestLists } from './digests-store.ts';
import { appendLedger } from '../ledger/index.ts';
import { lastAttempts } from './unsubscribe-store.ts';
import {
	findList,
	knownLists,
	type List,
	listReading,
	type ListMail,
	listMail,
	listMonths,
	listsById,
	listsInNewest,
	mailboxesOfLists,
	newestItem,
	newestOfLists,
	putRecipients,
	senderMarks,
	sentBehind
} from './lists-store.ts';
import { listMailboxes, type Mailbox, requireMailboxId } from '../mail/index.ts';
import { type Context, count, defineUseCase, id, text, today } from '../context/index.ts';
import Joi from 'joi';

/** What selecting among all lists of a mailbox needs. */
export interface ListBase extends List {
	/** All its mail here, in any state. */
	messages: number;
	bytes: number;
	first: CalendarDate | undefined;
	last: CalendarDate | undefined;
	/** How many of the newest messages are from it. */
	inNewest: number;
	verdict: Verdict | 'none';
	/** The deciding mark, in words. */
	verdictSentence: string;
	/** The day of the last unsubscribe request; undefined: never asked. */
	askedOn: CalendarDate | undefined;
	standing: Standing;
	standingSentence: string;
	inDigest: boolean;
}

/** A list on the sheet. */
export interface ListRow extends ListBase {
	/** The mailbox in which it is listed; of several, the one that gets most of its mail. */
	mailboxId: number;
	/** Its live messages: those that a decision applies to. */
	live: number;
	/** Read messages, of those with a known read state. */
	read: number;
	readKnown: number;
	lastRead: CalendarDate | undefined;
	/** Whether somebody here has written to it, or it is trusted; else it is a stranger's. */
	known: boolean;
	/** Messages in each of the last twelve months, the present one last. */
	months: number[];
	/** Names of the mailboxes that receive it. */
	mailboxes: string[];
	/** How many sender addresses it has. */
	addresses: number;
	/** The ways to unsubscribe in its newest message. */
	ways: WayKind[];
}

/** The filter for lists. */
export interface ListsAsked {
	mailboxId: number;
	/** Only lists among this many of the newest messages. */
	newest?: number | undefined;
	/** Part of a name, an identifier or an organisation. */
	text?: string | undefined;
	show?: 'all' | 'known' | 'strangers' | 'never-read' | 'still-writing' | 'blocked' | 'digest' | undefined;
	offset?: number | undefined;
	limit: number;
}

/** A part of the lists of a mailbox, grouped by organisation. */
export interface ListsPart {
	lists: ListRow[];
	offset: number;
	total: { lists: number; messages: number; bytes: number };
	/** Lists that still write after a request. */
	stillWriting: number;
	/** Lists with a pending request: sending was stopped or interrupted. */
	waiting: number;
	graceDays: number;
}

const GRACE = 'leaving-grace-days';

/** How many days a list may go on writing after a request. */
async function graceDays({ db }: Pick<Context, 'db'>): Promise<number> {
	return Number((await getSetting(db, GRACE)) ?? USUAL_GRACE_DAYS);
}

/** Sets it. @throws Refusal */
async function setGraceDays(context: Context, input: { days: number }): Promise<void> {
	if (!Number.isInteger(input.days) || input.days < 0 || input.days > 365)
		throw new Refusal('bad-input', 'The days of grace are a whole number from 0 to 365. Nothing was changed.');
	await inTransaction(context.db, async (db) => {
		const before = await graceDays({ db });
		await putSetting(db, GRACE, String(input.days));
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'leaving-set',
			details: { graceDays: input.days, before }
		});
	});
}

const monthsOf = (day: CalendarDate): string[] =>
	Array.from({ length: 12 }, (_, back) => monthsBefore(`${day.slice(0, 7)}-01`, 11 - back).slice(0, 7));

function byNumber<T extends { listId: number }>(rows: readonly T[]): Map<number, T[]> {
	const groups = new Map<number, T[]>();
	for (const row of rows) {
		const group = groups.get(row.listId);
		if (group) group.push(row);
		else groups.set(row.listId, [row]);
	}
	return groups;
}

/* Senders matter only if a mark is on addresses. */
async function writers(db: Db, mailboxId: number, ids: readonly number[], marks: readonly SenderMark[]) {
	if (marks.every(({ kind }) => kind === 'list')) return new Map<number, string>();
	return new Map((await newestOfLists(db, mailboxId, ids)).map(({ listId, address }) => [listId, address]));
}

/* The lists of a mailbox with the fields for selecting among them. */
async function allLists(context: Context, mailboxId: number): Promise<ListBase[]> {
	const { db } = context;
	const on = today(context);
	const grace = await graceDays(context);
	const mail = new Map((await listMail(db, mailboxId)).map((one) => [one.listId, one]));
	const ids = [...mail.keys()];
	const attempts = await lastAttempts(db, mailboxId);
	const digests = await digestLists(db, mailboxId);
	const marks: SenderMark[] = await senderMarks(db);
	const from = await writers(db, mailboxId, ids, marks);
	return (await listsById(db, ids)).map((list) => {
		const { messages, bytes, ...days } = mail.get(list.id) as ListMail;
		const last = days.last ?? undefined;
		const attempt = attempts.get(list.id);
		const standing = standingOf(attempt, last, on, grace);
		const judged = judge({ from: from.get(list.id) ?? '', list: list.identifier }, marks);
		return {
			...list,
			name: list.name || list.identifier,
			messages,
			bytes,
			first: days.first ?? undefined,
			last,
			inNewest: 0,
			verdict: judged.verdict,
			verdictSentence: judged.sentence,
			askedOn: attempt?.on,
			standing,
			standingSentence: standingSentence(standing, attempt, grace),
			inDigest: digests.has(list.id)
		};
	});
}

/** Adds what is only shown: it is read for the shown lists alone. */
export async function inFull(context: Context, mailboxId: number, lists: readonly ListBase[]): Promise<ListRow[]> {
	const { db } = context;
	const ids = lists.map(({ id }) => id);
	const columns = monthsOf(today(context));
	const months = byNumber(await listMonths(db, mailboxId, ids, `${columns[0]}-01`));
	const places = byNumber(await mailboxesOfLists(db, ids));
	const names = new Map((await listMailboxes(db)).map(({ id, name }) => [id, name]));
	const reading = await listReading(db, mailboxId, ids);
	const known = await knownLists(db, mailboxId, ids);
	const ways = new Map((await newestOfLists(db, mailboxId, ids)).map((newest) => [newest.listId, newest.ways]));
	return lists.map((list) => {
		const seenIn = places.get(list.id) ?? [];
		const counts = months.get(list.id) ?? [];
		const { read = 0, readKnown = 0, lastRead = null, addresses = 0 } = reading.get(list.id) ?? {};
		return {
			...list,
			mailboxId,
			live: seenIn.find((place) => place.mailboxId === mailboxId)?.live ?? 0,
			months: columns.map((column) => counts.find(({ month }) => month === column)?.messages ?? 0),
			mailboxes: seenIn.map(({ mailboxId: id }) => names.get(id) ?? '').sort(),
			read,
			readKnown,
			lastRead: lastRead ?? undefined,
			addresses,
			known: list.verdict === 'trust' || known.has(list.id),
			ways: waysOf(ways.get(list.id) ?? 0)
		};
	});
}

/* The last lists shown, so that scrolling takes a slice of them; several mailboxes are shown as one. */
const KEPT = 32;
const looked = new Map<string, Promise<ListBase[]>>();

async function listsOf(context: Context, mailboxId: number): Promise<ListBase[]> {
	const key = JSON.stringify([context.dataFolder, await changeNumber(context.db), mailboxId, today(context)]);
	const found = looked.get(key) ?? allLists(context, mailboxId);
	found.catch(() => looked.delete(key));
	const [oldest] = looked.keys();
	if (!looked.has(key) && looked.size >= KEPT && oldest !== undefined) looked.delete(oldest);
	looked.set(key, found);
	return found;
}

type Shown = NonNullable<ListsAsked['show']>;
const SHOWN: Partial<Record<Shown, (list: ListBase) => boolean>> = {
	'still-writing': ({ standing }) => standing === 'still-writing',
	blocked: ({ verdict }) => verdict === 'block',
	digest: ({ inDigest }) => inDigest
};

/* Fields that not every list has are read if the filter needs them; undefined: it does not. */
async function lookedUp(
	{ db }: Context,
	mailboxId: number,
	show: Shown,
	lists: readonly ListBase[]
): Promise<Set<number> | undefined> {
	const ids = lists.map(({ id }) => id);
	if (show === 'never-read')
		return new Set(
			[...(await listReading(db, mailboxId, ids)).values()]
				.filter(({ read, readKnown }) => readKnown > 0 && read === 0)
				.map(({ listId }) => listId)
		);
	if (show !== 'known' && show !== 'strangers') return undefined;
	const known = await knownLists(db, mailboxId, ids);
	const isKnown = ({ id, verdict }: ListBase) => verdict === 'trust' || known.has(id);
	return new Set(lists.filter((list) => isKnown(list) === (show === 'known')).map(({ id }) => id));
}

/** Groups the lists of one organisation, the organisation with the most mail first. */
export function byOrganisation(lists: ListBase[], weight: (list: ListBase) => number): ListBase[] {
	const of = new Map<string, number>();
	for (const list of lists) of.set(list.organisation, (of.get(list.organisation) ?? 0) + weight(list));
	return lists.sort(
		(a, b) =>
			(of.get(b.organisation) ?? 0) - (of.get(a.organisation) ?? 0) ||
			(a.organisation < b.organisation ? -1 : a.organisation > b.organisation ? 1 : 0) ||
			weight(b) - weight(a) ||
			a.id - b.id
	);
}

/** The part of a filter that selects among the lists of a mailbox. */
export type ListsFilter = Pick<ListsAsked, 'newest' | 'text' | 'show'>;

/** The lists of a mailbox that a filter selects, and all of them. */
export async function filterLists(
	context: Context,
	mailboxId: number,
	{ newest, text = '', show = 'all' }: ListsFilter
): Promise<{ everything: ListBase[]; selected: ListBase[] }> {
	const everything = await listsOf(context, mailboxId);
	let selected = everything;
	if (newest !== undefined) {
		const counts = new Map(
			(await listsInNewest(context.db, mailboxId, newest)).map(({ listId, messages }) => [listId, messages])
		);
		// a list that was just unsubscribed from stays in sight, though its back issues have left
		const since = daysAfter(today(context), -(await graceDays(context)));
		selected = everything
			.filter(({ id, askedOn }) => counts.has(id) || (askedOn !== undefined && askedOn >= since))
			.map((list) => ({ ...list, inNewest: counts.get(list.id) ?? 0 }));
	}
	const isLookedUp = await lookedUp(context, mailboxId, show, selected);
	const words = text.trim().toLowerCase();
	selected = selected.filter(
		(list) =>
			(SHOWN[show]?.(list) ?? true) &&
			(isLookedUp?.has(list.id) ?? true) &&
			(words === '' ||
				[list.name, list.identifier, list.organisation].some((name) => name.toLowerCase().includes(words)))
	);
	return { everything, selected };
}

/** The weight by which a filter sorts. */
export const weightOf = ({ newest }: ListsFilter) =>
	newest === undefined ? ({ messages }: ListBase) => messages : ({ inNewest }: ListBase) => inNewest;

/** The sums of a sheet of lists. */
export async function sumsOf(context: Context, sorted: readonly ListBase[], everything: readonly ListBase[]) {
	return {
		total: {
			lists: sorted.length,
			messages: sorted.reduce((sum, { messages }) => sum + messages, 0),
			bytes: sorted.reduce((sum, { bytes }) => sum + bytes, 0)
		},
		stillWriting: everything.filter(({ standing }) => standing === 'still-writing').length,
		waiting: everything.filter(({ standing }) => standing === 'waiting').length,
		graceDays: await graceDays(context)
	};
}

/** The lists of a mailbox: all, or those among its newest messages. @throws Refusal */
export async function listLists(context: Context, input: ListsAsked): Promise<ListsPart> {
	const mailbox = await requireMailboxId(context, input.mailboxId);
	const { everything, selected } = await filterLists(context, mailbox.id, input);
	const sorted = byOrganisation([...selected], weightOf(input));
	const { offset = 0, limit } = input;
	return {
		lists: await inFull(context, mailbox.id, sorted.slice(offset, offset + limit)),
		offset,
		...(await sumsOf(context, sorted, everything))
	};
}

/** Lists of a mailbox, by their numbers. @throws Refusal if one is unknown */
export async function requireLists(context: Context, mailboxId: number, ids: readonly number[]): Promise<ListRow[]> {
	const wanted = new Set(ids);
	const found = (await listsOf(context, mailboxId)).filter(({ id }) => wanted.has(id));
	if (found.length < wanted.size) throw new Refusal('not-found', 'There is no such list in this mailbox.');
	return inFull(context, mailboxId, found);
}

/** One list of a mailbox, by its number. @throws Refusal */
export async function requireList(context: Context, mailboxId: number, id: number): Promise<ListRow> {
	return (await requireLists(context, mailboxId, [id]))[0] as ListRow;
}

/** Numbers of lists by number or identifier. @throws Refusal */
export async function listIds({ db }: Pick<Context, 'db'>, names: readonly string[]): Promise<number[]> {
	const ids: number[] = [];
	for (const name of names) {
		const list = /^\d{1,15}$/.test(name) ? (await listsById(db, [Number(name)]))[0] : await findList(db, name);
		if (!list) throw new Refusal('not-found', `There is no list "${name}". Nothing was done.`);
		ids.push(list.id);
	}
	return [...new Set(ids)];
}

/** The mailboxes that receive any of some lists. */
export async function mailboxesGetting({ db }: Pick<Context, 'db'>, ids: readonly number[]): Promise<Mailbox[]> {
	const getting = new Set((await mailboxesOfLists(db, ids)).map(({ mailboxId }) => mailboxId));
	return (await listMailboxes(db)).filter(({ id }) => getting.has(id));
}

/* ---- recipients ---- */
const SENT_AT_ONCE = 2_000;

/** Stores the recipients of new sent mail of a mailbox: they are no strangers. */
export async function noteWrittenTo(context: Context, mailboxId: number): Promise<void> {
	const end = await newestItem(context.db);
	for (let more = true; more;) {
		const sent = await sentBehind(context.db, mailboxId, SENT_AT_ONCE);
		more = sent.length === SENT_AT_ONCE;
		const addresses = [...new Set(sent.flatMap(({ recipients }) => recipients.split('|').filter(Boolean)))];
		await inTransaction(context.db, (db) =>
			putRecipients(
				db,
				mailboxId,
				addresses.map((address) => ({ address, organisation: organisationOf(address) })),
				more ? (sent.at(-1)?.id ?? end) : end
			)
		);
	}
}

/** The use cases of this file. */
export const listsUseCases = [
	defineUseCase({
		name: 'listLists',
		input: () =>
			Joi.object({
				mailboxId: id.required(),
				newest: count,
				text: text,
				show: Joi.valid('digest', 'all', 'known', 'strangers', 'never-read', 'still-writing', 'blocked'),
				offset: count,
				limit: count.required()
			}).required(),
		thread: 'heavy',
		right: 'administrator',
		run: listLists
	}),
	defineUseCase({
		name: 'setGraceDays',
		input: () => Joi.object({ days: Joi.number().required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: setGraceDays
	})
] as const;
