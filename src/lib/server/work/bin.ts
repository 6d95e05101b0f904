import { type CalendarDate, daysAfter, daysBetween } from '../../../core/calendar.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import { inTransaction } from '../database/open.ts';
import { Refusal } from '../refusal.ts';
import { type Certificate, certificateItems, getCertificate, type CertificateItem } from '../stores/destroying.ts';
import { listDockets } from '../stores/dockets.ts';
import { type ItemRow, itemsWhere } from '../stores/items.ts';
import { appendLedger } from '../stores/ledger.ts';
import { listMailboxes, type Mailbox, putClearing } from '../stores/mailboxes.ts';
import { activePauses, type Pause } from '../stores/pauses.ts';
import { weighBinned } from '../stores/weights.ts';
import { type Context, today } from './context.ts';
import { carryOut } from './carry-out.ts';
import { requireMailbox, requireMailboxId } from './mailboxes.ts';
import { type DocketView, prepareDocket } from './prepare-docket.ts';

/** What is in the bin of a mailbox. */
export interface Bin extends Weight {
	mailbox: Mailbox;
	items: (ItemRow & { daysLeft: number })[];
	/** What can be destroyed today by its days, and what tomorrow will add to that. */
	due: Weight;
	dueTomorrow: Weight;
	pauses: Pause[];
}

/* What was put into the bin on this day or before has had its days. */
const dueBy = (context: Context, mailbox: Mailbox): CalendarDate => daysAfter(today(context), -mailbox.binDays);

const daysLeft = (context: Context, mailbox: Mailbox, binnedOn: string | null) =>
	Math.max(0, mailbox.binDays - daysBetween(binnedOn ?? today(context), today(context)));

/** A page of the bin, what falls due next first. */
export async function listBin(
	context: Context,
	input: { mailboxId: number; offset?: number | undefined; limit: number }
): Promise<Bin> {
	const mailbox = await requireMailboxId(context, input.mailboxId);
	const { db } = context;
	const { items, total } = await itemsWhere(
		db,
		{ sql: `item.mailbox_id = ? AND item.state = 'binned'`, bindings: [mailbox.id] },
		input.limit,
		input.offset ?? 0,
		'item.binned_on, item.id'
	);
	const day = dueBy(context, mailbox);
	const all = await weighBinned(db, mailbox.id, undefined);
	const due = await weighBinned(db, mailbox.id, day);
	const tomorrow = await weighBinned(db, mailbox.id, daysAfter(day, 1));
	return {
		mailbox,
		messages: total,
		bytes: all.bytes,
		items: items.map((item) => ({ ...item, daysLeft: daysLeft(context, mailbox, item.binnedOn) })),
		due,
		dueTomorrow: { messages: tomorrow.messages - due.messages, bytes: tomorrow.bytes - due.bytes },
		pauses: await activePauses(db, mailbox.id, today(context))
	};
}

/** Drafts a docket of its own that destroys what is in the bin, or only what has had its days. @throws Refusal */
export async function prepareEmptying(
	context: Context,
	input: { mailboxId: number; onlyDue: boolean; name?: string }
): Promise<DocketView> {
	const mailbox = await requireMailboxId(context, input.mailboxId);
	return prepareDocket(context, {
		mailboxId: mailbox.id,
		lines: [
			{
				decision: 'destroy',
				options: {},
				scope: { kind: 'bin', binnedBy: input.onlyDue ? dueBy(context, mailbox) : undefined }
			}
		],
		...(input.name === undefined ? {} : { name: input.name })
	});
}

/** How a mailbox is cleared. What is given only is changed. */
export interface ClearingSettings {
	mailbox: string;
	binDays?: number | undefined;
	emptiesBin?: boolean | undefined;
	confirmAbove?: number | undefined;
	inboxAim?: number | undefined;
	addresses?: string[] | undefined;
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
	return inTransaction(context.db, async (db) => {
		const mailbox = await requireMailbox({ ...context, db }, name);
		const set = Object.fromEntries(Object.entries(given).filter(([, value]) => value !== undefined));
		const next: Mailbox = { ...mailbox, ...set };
		await putClearing(db, mailbox.id, next);
		await appendLedger(db, {
			at: context.now(),
			who: context.who,
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

/** Name of the dockets of the nightly run. */
export const NIGHTLY = 'Nightly emptying of the bin';

/**
 * Destroys what has had its days, in the mailboxes that are switched on for it. The first run of a mailbox only drafts the
 * docket: a person carries it out, and the next ones run by themselves (invariant 9).
 */
export async function emptyDueBins(context: Context): Promise<{ mailbox: string; messages: number; asks: boolean }[]> {
	const done: { mailbox: string; messages: number; asks: boolean }[] = [];
	for (const mailbox of await listMailboxes(context.db)) {
		if (!mailbox.emptiesBin) continue;
		const { messages } = await weighBinned(context.db, mailbox.id, dueBy(context, mailbox));
		if (messages === 0) continue;
		const nightly = (
			await listDockets(context.db, {
				mailboxId: mailbox.id,
				states: ['drafted', 'carrying-out', 'carried-out'],
				limit: 1_000
			})
		).filter(({ name }) => name === NIGHTLY);
		const hasRun = nightly.some(({ state }) => state === 'carried-out');
		if (!hasRun && nightly.some(({ state }) => state === 'drafted')) continue;
		const docket = await prepareEmptying(context, { mailboxId: mailbox.id, onlyDue: true, name: NIGHTLY });
		if (hasRun) await carryOut(context, { id: docket.id, expected: docket, confirm: mailbox.name });
		done.push({ mailbox: mailbox.name, messages: docket.messages, asks: !hasRun });
	}
	return done;
}

/** A certificate with a page of what was destroyed under it. */
export interface CertificateView extends Certificate {
	items: (Omit<CertificateItem, 'sha256'> & { sha256: string })[];
}

/** The certificate of a docket. @throws Refusal */
export async function readCertificate(
	context: Context,
	input: { docketId: number; after?: number; limit: number }
): Promise<CertificateView> {
	const certificate = await getCertificate(context.db, { docketId: input.docketId });
	if (!certificate) throw new Refusal('not-found', `Docket ${input.docketId} has destroyed nothing.`);
	const items = await certificateItems(context.db, certificate.id, input.after ?? 0, input.limit);
	return { ...certificate, items: items.map((item) => ({ ...item, sha256: item.sha256.toString('hex') })) };
}
