import { type CalendarDate, daysAfter, monthsBefore } from '../../../core/calendar.ts';
import type { DueAction, Trigger } from '../../../core/retention/terms.ts';
import { termsWords, TRIGGER_WORDS } from '../../../core/retention/sentences.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import {
	activePauses,
	countDueNeverArchived,
	countHeldDue,
	dueCondition,
	type DueRow,
	isBeingApplied,
	listDueWeights,
	listRetentions,
	type Pause,
	weighDue
} from '../standing/index.ts';
import { binByDueDate, foldersById, type ItemRow, itemsWhere, listMailboxes, requireMailboxes } from '../mail/index.ts';
import { type Context, defineUseCase, mailboxIds, today } from '../context/index.ts';
import { sql } from '../database/index.ts';
import Joi from 'joi';

/** How many days are shown one by one; later ones are shown by month. */
const DAYS_SHOWN = 14;
const MONTHS_SHOWN = 24;

/** Mail that falls due, in words. */
export interface DueLine extends Weight {
	/** A day, or a month. Mail already due counts under today. */
	date: string;
	disposition: DueAction;
	/** Code of the series; empty for a plain period, "bin" for binned mail. */
	series: string;
	/** Its retention, in words. */
	terms: string;
	retentionId: number;
	mailboxId: number;
	mailbox: string;
	folderId: number;
	folder: string;
}

/** Due mail and upcoming dispositions. */
export interface DueOverview {
	today: CalendarDate;
	lines: DueLine[];
	/** How much of that is under a hold, and so stays. */
	held: number;
	/** How much of what is due to be archived is never archived, and so stays. */
	neverArchived: number;
	/** Settings are still being applied: the figures are those from before. */
	isBeingApplied: boolean;
	/** Pauses, the earliest end first. */
	pauses: (Pause & { mailbox: string })[];
	/** By month, for the chart; what is due now is left out. */
	months: ({ month: string } & Record<DueAction, number>)[];
}

/* Until the end of the last month shown. */
function horizon(from: CalendarDate): CalendarDate {
	const end = monthsBefore(`${from.slice(0, 7)}-01`, -MONTHS_SHOWN);
	return daysAfter(end, -1);
}

async function named(context: Context, found: readonly DueRow[]): Promise<DueLine[]> {
	const { db } = context;
	const mailboxes = new Map((await listMailboxes(db)).map(({ id, name }) => [id, name]));
	const folders = new Map(
		(await foldersById(db, [...new Set(found.map(({ folderId }) => folderId))])).map(({ id, path }) => [id, path])
	);
	const retentions = await listRetentions(db);
	return found.map(({ action, mailboxId, folderId, ...row }) => {
		const retention = retentions.get(row.retentionId);
		return {
			...row,
			disposition: action,
			series: retention?.series?.code ?? '',
			terms: retention ? termsWords(retention.terms) : '',
			mailboxId,
			mailbox: mailboxes.get(mailboxId) ?? '',
			folderId,
			folder: folders.get(folderId) ?? ''
		};
	});
}

/* Binned mail is destroyed after its days, if the scheduled run is on (invariant 7). */
async function binLines(context: Context, mailboxId: number | undefined, until: CalendarDate): Promise<DueLine[]> {
	const from = today(context);
	const lines: DueLine[] = [];
	for (const mailbox of await listMailboxes(context.db)) {
		if (!mailbox.emptiesBin || (mailboxId !== undefined && mailbox.id !== mailboxId)) continue;
		for (const { day, messages, bytes } of await binByDueDate(context.db, mailbox.id, mailbox.binDays)) {
			const due = day < from ? from : day;
			if (due > until) continue;
			const date = due <= daysAfter(from, DAYS_SHOWN) ? due : due.slice(0, 7);
			const known = lines.find((line) => line.mailboxId === mailbox.id && line.date === date);
			if (known) {
				known.messages += messages;
				known.bytes += bytes;
			} else
				lines.push({
					date,
					disposition: 'destroy',
					series: 'bin',
					terms: `destroyed ${mailbox.binDays} days after it was deleted`,
					retentionId: 0,
					mailboxId: mailbox.id,
					mailbox: mailbox.name,
					folderId: 0,
					folder: `deleted ${mailbox.binDays} days before`,
					messages,
					bytes
				});
		}
	}
	return lines;
}

/** What falls due by a day and its disposition, by day and then by month. */
export async function listDue(
	context: Context,
	input: { mailboxId?: number | undefined; until?: CalendarDate | undefined; daily?: boolean }
): Promise<DueLine[]> {
	const from = today(context);
	const until = input.until ?? horizon(from);
	const found = await listDueWeights(context.db, {
		mailboxId: input.mailboxId,
		today: from,
		until,
		daysUntil: input.daily ? until : daysAfter(from, DAYS_SHOWN)
	});
	const lines = [...(await named(context, found)), ...(await binLines(context, input.mailboxId, until))];
	// what is counted by month comes after the days of that month
	const place = ({ date }: DueLine) => (date.length === 7 ? `${date}-99` : date);
	return lines.sort((a, b) => (place(a) < place(b) ? -1 : place(a) > place(b) ? 1 : 0));
}

/** Due mail and upcoming dispositions, for the page. */
export async function dueOverview(
	context: Context,
	input: { mailboxIds?: number[] | undefined }
): Promise<DueOverview> {
	const from = today(context);
	const mailboxes = await requireMailboxes(context, input.mailboxIds);
	const shown = new Set(mailboxes.map(({ id }) => id));
	const only = mailboxes.length === 1 ? mailboxes[0]?.id : undefined;
	const lines = (await listDue(context, { mailboxId: only })).filter(({ mailboxId }) => shown.has(mailboxId));
	const ofEach = async (count: (mailboxId: number) => Promise<number>) => {
		let sum = 0;
		for (const { id } of mailboxes) sum += await count(id);
		return sum;
	};
	const months = Array.from({ length: MONTHS_SHOWN }, (_, n) => ({
		month: monthsBefore(`${from.slice(0, 7)}-01`, -n).slice(0, 7),
		archive: 0,
		destroy: 0,
		review: 0
	}));
	const byMonth = new Map(months.map((month) => [month.month, month]));
	for (const { date, disposition, messages } of lines) {
		const month = date === from ? undefined : byMonth.get(date.slice(0, 7));
		if (month) month[disposition] += messages;
	}
	const pauses: DueOverview['pauses'] = [];
	for (const { id, name } of mailboxes)
		for (const pause of await activePauses(context.db, id, from)) pauses.push({ ...pause, mailbox: name });
	return {
		today: from,
		lines,
		held: await ofEach((id) => countHeldDue(context.db, id, horizon(from))),
		neverArchived: await ofEach((id) => countDueNeverArchived(context.db, id, horizon(from))),
		isBeingApplied: (await ofEach(async (id) => Number(await isBeingApplied(context, id)))) > 0,
		pauses: pauses.sort((a, b) => (a.until < b.until ? -1 : 1)),
		months
	};
}

/** A selection of due mail. */
export interface DueItemsInput {
	mailboxId?: number | undefined;
	action?: DueAction | undefined;
	/** A day or a month; undefined: everything due by `until`. */
	date?: string | undefined;
	until?: CalendarDate | undefined;
	retentionId?: number | undefined;
	folderId?: number | undefined;
	limit: number;
	offset?: number | undefined;
}

/** A due item. */
export interface DueItem extends ItemRow {
	messageId: string;
	trigger: Trigger | undefined;
	triggerWords: string;
	dueOn: CalendarDate;
	disposition: DueAction;
}

/** The days of a row. Mail due before today counts under today. */
function daysMeant(date: string, from: CalendarDate): { since: CalendarDate | undefined; by: CalendarDate } {
	if (date.length > 7) return { since: date <= from ? undefined : date, by: date };
	const next = monthsBefore(`${date}-01`, -1);
	const first = daysAfter(from, DAYS_SHOWN + 1);
	const since = `${date}-01` < first ? first : `${date}-01`;
	return { since, by: daysAfter(next, -1) };
}

/** The items of a row of due mail. */
export function dueRow(
	context: Context,
	{ action, date, retentionId, folderId }: { action: DueAction; date: string; retentionId: number; folderId: number }
) {
	return {
		actions: [action] as [DueAction],
		...daysMeant(date, today(context)),
		retentionIds: [retentionId],
		folderIds: [folderId]
	};
}

/** A page of due items. */
export async function dueItems(context: Context, input: DueItemsInput): Promise<{ items: DueItem[]; total: number }> {
	const { since, by } = input.date
		? daysMeant(input.date, today(context))
		: { since: undefined, by: input.until ?? today(context) };
	const due = dueCondition({
		actions: input.action ? [input.action] : ['archive', 'destroy', 'review'],
		since,
		by,
		retentionIds: input.retentionId === undefined ? undefined : [input.retentionId],
		folderIds: input.folderId === undefined ? undefined : [input.folderId]
	});
	const where =
		input.mailboxId === undefined
			? sql`item.mailbox_id IN (SELECT id FROM mailbox) AND ${due}`
			: sql`item.mailbox_id = ${input.mailboxId} AND ${due}`;
	const { items, total } = await itemsWhere(
		context.db,
		where,
		input.limit,
		input.offset ?? 0,
		sql`item.due_on, item.received_on, item.id`
	);
	const retentions = await listRetentions(context.db);
	return {
		total,
		items: items.map((item) => {
			const trigger = item.retentionId === null ? undefined : retentions.get(item.retentionId)?.terms.trigger;
			return {
				...item,
				trigger,
				triggerWords: trigger ? TRIGGER_WORDS[trigger] : '',
				dueOn: item.dueOn ?? '',
				disposition: item.dueAction ?? 'review'
			};
		})
	};
}

/** How many messages fall due within a week, in all mailboxes. */
export async function countDueSoon(context: Context): Promise<number> {
	let messages = 0;
	const by = daysAfter(today(context), 7);
	for (const { id } of await listMailboxes(context.db))
		for (const action of ['archive', 'destroy', 'review'] as const)
			messages += (await weighDue(context.db, id, action, by)).messages;
	return messages;
}

/** The use cases of this file. */
export const dueUseCases = [
	defineUseCase({
		name: 'countDueSoon',
		thread: 'reader',
		right: 'oversight',
		run: countDueSoon
	}),
	defineUseCase({
		name: 'dueOverview',
		input: () => Joi.object({ mailboxIds }).required(),
		thread: 'heavy',
		right: 'administrator',
		run: dueOverview
	})
] as const;
