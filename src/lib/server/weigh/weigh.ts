import type { CalendarDate } from '../../../core/calendar.ts';
import {
	type AdviceFacts,
	adviceSentence,
	cutoffFor,
	SENT_AGE_MONTHS,
	type Suggestion,
	suggestions,
	usualCutoff
} from '../../../core/weigh/advice.ts';
import { SIZE_BANDS } from '../../../core/weigh/bands.ts';
import { type Growth, growthLine, growthOf, type GrowthPoint, type MonthWeight } from '../../../core/weigh/growth.ts';
import { byFolderAndYear, type WeightOfYears } from '../../../core/weigh/years.ts';
import {
	quotaWarnings,
	readLimits,
	shareReached,
	USUAL_LIMITS,
	type WarningLimits
} from '../../../core/weigh/quota-warning.ts';
import { type FolderWeight, sumTree, type Weight } from '../../../core/weigh/tree.ts';
import {
	type LargeMessage,
	largestMessages,
	listFolders,
	listMailboxes,
	liveBeforeMonth,
	type Mailbox,
	monthsOfMailboxes,
	NEVER_ARCHIVED,
	hasNeverArchived,
	condition,
	requireMailboxes,
	requireMailboxId,
	weighItems,
	type Tree,
	type Weighed,
	weightByBand,
	unreadInInboxes,
	weightAhead,
	weightAheadBy,
	weightByFolder,
	weightByFolderAndYear,
	weightByList,
	weightByState
} from '../mail/index.ts';
import {
	type Condition,
	type Db,
	empty,
	getSetting,
	inList,
	inTransaction,
	putSetting,
	sql
} from '../database/index.ts';
import { appendLedger } from '../ledger/index.ts';
import { Refusal } from '../refusal.ts';
import { readQuery } from '../../../core/search/query.ts';
import { quotedValue } from '../../../core/search/quoted-value.ts';
import { countByHand } from '../lists/index.ts';
import { datedMonths, rowsBy, WEIGHED_BY, type WeighedBy, type WeighedRow } from './weighed-rows.ts';
import { type Context, defineUseCase, id, mailboxIds, today } from '../context/index.ts';
import Joi from 'joi';

/** A mailbox with its counts. */
export interface MailboxWeight extends Mailbox, Weight {
	/** Unread messages, if known. */
	unread: number;
	/** Unread messages of its inbox; without an inbox, of all its folders: what waits at the desk. */
	onTheDesk: number;
	/** Messages and bytes in the bin, which the counts include. */
	binned: Weight;
	/** Outside the quota (invariant 2). */
	archived: Weight;
	/** Of the counts, what is still on its way from the server of a live mailbox: its headers are known. */
	ahead: Weight;
	/** Lists with a link that a person has to open to unsubscribe. */
	listsByHand: number;
	/** The highest share of its quota, in per cent, that it has reached of those that are warned of. */
	fullTo: number | undefined;
}

/* When this office warns of quotas. */
async function warningLimits(db: Db): Promise<WarningLimits> {
	const set = await getSetting(db, 'quota-warnings');
	return set === undefined ? USUAL_LIMITS : (JSON.parse(set) as WarningLimits);
}

/** Sets at which shares of a quota, and how many days before a mailbox is full, people are warned. @throws Refusal */
export async function setQuotaWarnings(
	context: Context,
	input: { shares: string; days: number }
): Promise<WarningLimits> {
	const limits = readLimits(input.shares, input.days);
	if (typeof limits === 'string') throw new Refusal('bad-input', `${limits}. Nothing was changed.`);
	await inTransaction(context.db, async (db) => {
		await putSetting(db, 'quota-warnings', JSON.stringify(limits));
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'quota-warnings-set',
			details: { shares: limits.shares, days: limits.days }
		});
	});
	return limits;
}

/* What is to be said of how full a mailbox is. */
function warningsOf(
	{ bytes, quotaBytes, server }: MailboxWeight,
	{ quotaReachedOn }: Growth,
	limits: WarningLimits,
	on: CalendarDate
): string[] {
	const { host = '', quotaUsed = null, quotaLimit = null } = server ?? {};
	const there = quotaUsed === null || quotaLimit === null ? undefined : { host, quotaUsed, quotaLimit };
	return quotaWarnings({ bytes, quotaBytes, reachedOn: quotaReachedOn, server: there }, limits, on);
}

/** Today in the office's calendar. */
async function officeToday(context: Context): Promise<CalendarDate> {
	return today(context);
}

/** All mailboxes with their counts. */
export async function listWeights({ db }: Context): Promise<MailboxWeight[]> {
	const weights = await weightByState(db);
	const byHand = await countByHand(db);
	const inboxes = await unreadInInboxes(db);
	const { shares } = await warningLimits(db);
	const onTheWay = await weightAhead(db);
	const of = (mailboxId: number, state: string) => {
		const {
			messages = 0,
			bytes = 0,
			unread = 0
		} = weights.find((weight) => weight.mailboxId === mailboxId && weight.state === state) ?? {};
		return { messages, bytes, unread };
	};
	return (await listMailboxes(db)).map((mailbox) => {
		const live = of(mailbox.id, 'live');
		const binned = of(mailbox.id, 'binned');
		const ahead = onTheWay.get(mailbox.id) ?? { messages: 0, bytes: 0, unread: 0 };
		const bytes = live.bytes + binned.bytes + ahead.bytes;
		return {
			...mailbox,
			messages: live.messages + binned.messages + ahead.messages,
			bytes,
			unread: live.unread + binned.unread + ahead.unread,
			ahead,
			onTheDesk: inboxes.get(mailbox.id) ?? live.unread,
			binned,
			archived: of(mailbox.id, 'archived'),
			listsByHand: byHand.get(mailbox.id) ?? 0,
			fullTo: shareReached(bytes, mailbox.quotaBytes, shares)
		};
	});
}

async function mailboxWeight(context: Context, id: number): Promise<MailboxWeight> {
	await requireMailboxId(context, id);
	return (await listWeights(context)).find((candidate) => candidate.id === id) as MailboxWeight;
}

async function foldersOf({ db }: Context, mailbox: MailboxWeight, tree: Tree): Promise<FolderWeight[]> {
	const weighed: Weighed = { mailboxIds: [mailbox.id], states: tree === 'archive' ? 'archived' : 'quota' };
	const own = await weightByFolder(db, weighed);
	if (tree === 'mailbox' && mailbox.ahead.messages > 0)
		for (const { key, messages, bytes, unread } of await weightAheadBy(db, [mailbox.id], 'folder')) {
			const here = own.get(Number(key)) ?? { messages: 0, bytes: 0, unread: 0 };
			own.set(Number(key), {
				messages: here.messages + messages,
				bytes: here.bytes + bytes,
				unread: here.unread + unread
			});
		}
	return sumTree(await listFolders(db, mailbox.id, tree), own);
}

/** A mailbox with the folders of one of its trees. */
export async function mailboxFolders(
	context: Context,
	input: { mailboxId: number; tree: Tree }
): Promise<{ mailbox: MailboxWeight; folders: FolderWeight[]; usualCutoff: CalendarDate; today: CalendarDate }> {
	const mailbox = await mailboxWeight(context, input.mailboxId);
	return {
		mailbox,
		folders: await foldersOf(context, mailbox, input.tree),
		usualCutoff: usualCutoff(today(context)),
		today: today(context)
	};
}

/** The parts of a mailbox's weight. */
export interface Weighing {
	mailbox: MailboxWeight;
	folders: FolderWeight[];
	by: WeighedBy;
	rows: WeighedRow[];
	largest: LargeMessage[];
	months: MonthWeight[];
	/** By year of receipt, the heaviest top folders apart; what is still on a server is left out. */
	years: WeightOfYears;
	growth: Growth;
	/** Its mail summed up month by month, and how it goes on. */
	line: GrowthPoint[];
	/** What is to be said of how full it is. */
	warnings: string[];
	suggestions: Suggestion[];
	/** The first advice, as a sentence. */
	advice: string;
}

const LARGEST_SHOWN = 50;
const SUGGESTIONS_SHOWN = 6;
const FOLDERS_STACKED = 4;
const FOLDERS_SUGGESTED = 3;
const LISTS_SUGGESTED = 3;

async function adviceFacts(
	context: Context,
	mailbox: MailboxWeight,
	folders: readonly FolderWeight[]
): Promise<AdviceFacts> {
	const { db } = context;
	// what is never archived is no gain: it is counted off, which costs nothing where there is none
	const barred = await hasNeverArchived(db, mailbox.id);
	const gain = async (all: Weight, condition: Condition): Promise<Weight> => {
		if (!barred) return all;
		const off = await weighItems(
			db,
			sql`item.mailbox_id = ${mailbox.id} AND item.state = 'live' AND ${NEVER_ARCHIVED} AND ${condition}`
		);
		return { messages: all.messages - off.messages, bytes: all.bytes - off.bytes };
	};
	const before = async (cutoff: CalendarDate, folder?: FolderWeight) => {
		const ids = folder && withBelow(folders, folder);
		return gain(
			await liveBeforeMonth(db, mailbox.id, cutoff.slice(0, 7), ids),
			sql`item.received_on < ${cutoff} AND item.date_in_doubt = 0 ${ids ? sql`AND item.folder_id IN ${inList(ids)}` : empty}`
		);
	};
	const cutoff = usualCutoff(today(context));
	const heaviest = folders
		.filter(({ role, parentId }) => role !== 'trash' && parentId === null)
		.sort((a, b) => b.bytesBelow - a.bytesBelow)
		.slice(0, FOLDERS_SUGGESTED);
	const oldByFolder: AdviceFacts['oldByFolder'] = [];
	for (const folder of heaviest) oldByFolder.push({ path: folder.path, weight: await before(cutoff, folder) });
	const sent = folders.find(({ role }) => role === 'sent');
	const sentCutoff = cutoffFor(today(context), SENT_AGE_MONTHS);
	const live = { mailboxIds: [mailbox.id], states: 'live' } as const;
	const bands = await weightByBand(db, live);
	return {
		old: mailbox.archives ? { cutoff, weight: await before(cutoff) } : undefined,
		oldByFolder,
		sent: sent && { path: sent.path, cutoff: sentCutoff, weight: await before(sentCutoff, sent) },
		lists: await Promise.all(
			(await weightByList(db, live, LISTS_SUGGESTED)).map(async ({ key, label = '', messages, bytes }) => ({
				identifier: key,
				name: label,
				weight: await gain({ messages, bytes }, condition(readQuery(quotedValue(`=${key}`, 'list'))))
			}))
		),
		large: await gain(
			bands
				.filter(({ band }) => (SIZE_BANDS[band]?.from ?? 0) >= 1_000_000)
				.reduce((sum, { messages, bytes }) => ({ messages: sum.messages + messages, bytes: sum.bytes + bytes }), {
					messages: 0,
					bytes: 0
				}),
			condition(readQuery('not smaller:1MB'))
		),
		bin: mailbox.binned,
		total: mailbox
	};
}

/* The folder and its subfolders; the tree lists parents before their children. */
function withBelow(folders: readonly FolderWeight[], top: FolderWeight): number[] {
	const ids = new Set([top.id]);
	for (const { id, parentId } of folders) if (parentId !== null && ids.has(parentId)) ids.add(id);
	return [...ids];
}

/** Weighs a mailbox: live and binned mail, from the summaries. */
export async function weighMailbox(
	context: Context,
	input: { mailboxId: number; by?: WeighedBy | undefined }
): Promise<Weighing> {
	const { db } = context;
	const mailbox = await mailboxWeight(context, input.mailboxId);
	const by = input.by ?? 'organisation';
	const weighed: Weighed = { mailboxIds: [mailbox.id], states: 'quota' };
	const folders = await foldersOf(context, mailbox, 'mailbox');
	const months = await datedMonths(db, [mailbox]);
	const found = suggestions(await adviceFacts(context, mailbox, folders));
	const growth = growthOf(months, mailbox, today(context));
	return {
		mailbox,
		folders,
		by,
		rows: await rowsBy(context, [mailbox], by),
		largest: await largestMessages(db, weighed, LARGEST_SHOWN),
		months,
		years: byFolderAndYear(await weightByFolderAndYear(db, weighed), folders, FOLDERS_STACKED),
		growth,
		line: growthLine(months, growth, today(context)),
		warnings: warningsOf(mailbox, growth, await warningLimits(db), today(context)),
		suggestions: found.slice(0, SUGGESTIONS_SHOWN),
		advice: adviceSentence(found[0], mailbox, mailbox.ahead.messages)
	};
}

/** Several mailboxes, weighed as one. */
export interface WeighedTogether extends Weight {
	unread: number;
	binned: Weight;
	archived: Weight;
	by: WeighedBy;
	rows: WeighedRow[];
	largest: LargeMessage[];
}

/**
 * Weighs several mailboxes as one; each counts against its own quota.
 *
 * @param input.mailboxIds undefined: all mailboxes
 * @throws Refusal
 */
export async function weighTogether(
	context: Context,
	input: { mailboxIds?: number[] | undefined; by?: WeighedBy | undefined }
): Promise<WeighedTogether> {
	const ids = new Set((await requireMailboxes(context, input.mailboxIds)).map(({ id }) => id));
	const mailboxes = (await listWeights(context)).filter(({ id }) => ids.has(id));
	const sum = (of: (mailbox: MailboxWeight) => number) => mailboxes.reduce((total, one) => total + of(one), 0);
	const by = input.by ?? 'organisation';
	return {
		messages: sum(({ messages }) => messages),
		bytes: sum(({ bytes }) => bytes),
		unread: sum(({ unread }) => unread),
		binned: { messages: sum(({ binned }) => binned.messages), bytes: sum(({ binned }) => binned.bytes) },
		archived: { messages: sum(({ archived }) => archived.messages), bytes: sum(({ archived }) => archived.bytes) },
		by,
		rows: await rowsBy(context, mailboxes, by),
		largest: await largestMessages(context.db, { mailboxIds: [...ids], states: 'quota' }, LARGEST_SHOWN)
	};
}

/** A mailbox beside others. */
interface ComparedMailbox extends MailboxWeight {
	months: MonthWeight[];
	growth: Growth;
	/** What is to be said of how full it is. */
	warnings: string[];
}

/** Mailboxes side by side, and when people are warned of quotas. */
export interface Compared {
	mailboxes: ComparedMailbox[];
	limits: WarningLimits;
}

/** All mailboxes side by side, the one furthest over its quota first. */
export async function compareMailboxes(context: Context): Promise<Compared> {
	const limits = await warningLimits(context.db);
	const all = await monthsOfMailboxes(context.db);
	// the fullest first; without a quota, by weight
	const fullness = ({ bytes, quotaBytes }: MailboxWeight) => (quotaBytes ? bytes / quotaBytes : 0);
	const mailboxes = (await listWeights(context)).sort((a, b) => fullness(b) - fullness(a) || b.bytes - a.bytes);
	const compared = mailboxes.map((mailbox): ComparedMailbox => {
		const months = all
			.filter(({ mailboxId }) => mailboxId === mailbox.id)
			.map(({ month, messages, bytes }) => ({ month, messages, bytes }));
		const growth = growthOf(months, mailbox, today(context));
		return { ...mailbox, months, growth, warnings: warningsOf(mailbox, growth, limits, today(context)) };
	});
	return { mailboxes: compared, limits };
}

/** The use cases of this file. */
export const weighUseCases = [
	defineUseCase({
		name: 'listWeights',
		thread: 'reader',
		right: 'oversight',
		run: listWeights
	}),
	defineUseCase({
		name: 'weighMailbox',
		input: () =>
			Joi.object({
				mailboxId: id.required(),
				by: Joi.valid(...WEIGHED_BY)
			}).required(),
		thread: 'reader',
		right: 'administrator',
		run: weighMailbox
	}),
	defineUseCase({
		name: 'weighTogether',
		input: () => Joi.object({ mailboxIds, by: Joi.valid(...WEIGHED_BY) }).required(),
		thread: 'reader',
		right: 'administrator',
		run: weighTogether
	}),
	defineUseCase({
		name: 'mailboxFolders',
		input: () => Joi.object({ mailboxId: id.required(), tree: Joi.valid('mailbox', 'archive').required() }).required(),
		thread: 'reader',
		right: 'administrator',
		run: mailboxFolders
	}),
	defineUseCase({
		name: 'compareMailboxes',
		thread: 'reader',
		right: 'oversight',
		run: compareMailboxes
	}),
	defineUseCase({
		name: 'setQuotaWarnings',
		input: () =>
			Joi.object({ shares: Joi.string().allow('').max(200).required(), days: Joi.number().required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: setQuotaWarnings
	}),
	defineUseCase({
		name: 'officeToday',
		thread: 'reader',
		right: 'person',
		run: officeToday
	})
] as const;
