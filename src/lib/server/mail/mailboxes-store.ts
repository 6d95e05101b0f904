import type { Layout } from '../../../core/archive/layout.ts';
import type { CalendarDate } from '../../../core/calendar.ts';
import type { DigestRhythm } from '../../../core/lists/digest.ts';
import { nameKey } from '../../../core/weigh/roles.ts';
import { change, type Db, insert, row, rows, sql } from '../database/index.ts';

/** A mailbox. */
export interface Mailbox {
	id: number;
	name: string;
	/** Undefined: no quota is known. */
	quotaBytes: number | undefined;
	/** Days for which deleted items can be had back. */
	binDays: number;
	/** How its archive is laid out, unless a docket says otherwise. */
	layout: Layout;
	/** False: nothing of it may be archived. */
	archives: boolean;
	/** The addresses under which it is written to. */
	addresses: string[];
	/** So many messages in the inbox need no scrolling: what is aimed at. */
	inboxAim: number;
	/** Whether what is due in its bin is destroyed every night. */
	emptiesBin: boolean;
	/** Destroying more than so many messages wants the mailbox's name typed. */
	confirmAbove: number;
	/** Days after which junk goes to the bin, and whether it does so by itself. */
	junkDays: number;
	clearsJunk: boolean;
	digestEvery: DigestRhythm;
	digestFolder: string;
	/** Whether what is due by the schedule is put on a docket, and who carries it out; and every so many days. */
	retains: Retaining;
	retainsEvery: number;
	/** When the schedule ran last. */
	retainedOn: CalendarDate | undefined;
	/** Undefined: working papers may weigh what they like. */
	workingQuotaBytes: number | undefined;
}

/** How retention runs in a mailbox: not at all; asking first; by itself. */
export const RETAINING = ['off', 'ask', 'do'] as const;
export type Retaining = (typeof RETAINING)[number];

interface MailboxRow {
	id: number;
	name: string;
	quota_bytes: number | null;
	bin_days: number;
	archive_paths: Layout['paths'];
	archive_divide: Layout['divide'];
	archives: number;
	addresses: string;
	inbox_aim: number;
	empties_bin: number;
	confirm_above: number;
	junk_days: number;
	clears_junk: number;
	digest_every: DigestRhythm;
	digest_folder: string;
	retains: Retaining;
	retains_every: number;
	retained_on: string | null;
	working_quota_bytes: number | null;
}

const COLUMNS = sql`id, name, quota_bytes, bin_days, archive_paths, archive_divide, archives, addresses, inbox_aim,
	empties_bin, confirm_above, junk_days, clears_junk, digest_every, digest_folder, retains,
	retains_every, retained_on, working_quota_bytes`;

function toMailbox(found: MailboxRow): Mailbox {
	return {
		id: found.id,
		name: found.name,
		quotaBytes: found.quota_bytes ?? undefined,
		binDays: found.bin_days,
		layout: { paths: found.archive_paths, divide: found.archive_divide },
		archives: found.archives === 1,
		addresses: JSON.parse(found.addresses) as string[],
		inboxAim: found.inbox_aim,
		emptiesBin: found.empties_bin === 1,
		confirmAbove: found.confirm_above,
		junkDays: found.junk_days,
		clearsJunk: found.clears_junk === 1,
		digestEvery: found.digest_every,
		digestFolder: found.digest_folder,
		retains: found.retains,
		retainsEvery: found.retains_every,
		retainedOn: found.retained_on ?? undefined,
		workingQuotaBytes: found.working_quota_bytes ?? undefined
	};
}

/** All mailboxes by name. */
export async function listMailboxes(db: Db): Promise<Mailbox[]> {
	return (await rows<MailboxRow>(db, sql`SELECT ${COLUMNS} FROM mailbox ORDER BY name_key`)).map(toMailbox);
}

/** The mailbox of that name, without regard to case and accents. */
export async function findMailbox(db: Db, name: string): Promise<Mailbox | undefined> {
	const found = await row<MailboxRow>(db, sql`SELECT ${COLUMNS} FROM mailbox WHERE name_key = ${nameKey(name)}`);
	return found && toMailbox(found);
}

/** The mailbox with that id. */
export async function getMailbox(db: Db, id: number): Promise<Mailbox | undefined> {
	const found = await row<MailboxRow>(db, sql`SELECT ${COLUMNS} FROM mailbox WHERE id = ${id}`);
	return found && toMailbox(found);
}

/** Makes a mailbox and returns its id. What is set for all mailboxes holds for its mail from the first message on. */
export async function addMailbox(db: Db, name: string, madeAt: string): Promise<number> {
	return insert(
		db,
		sql`INSERT INTO mailbox (name, name_key, made_at, retention_settings, retention_applied) SELECT ${name.trim()}, ${nameKey(name)}, ${madeAt}, isSet, isSet FROM (
			SELECT EXISTS (SELECT 1 FROM named_retention) OR EXISTS (SELECT 1 FROM class_retention) AS isSet)`
	);
}

/** Sets the quota of a mailbox; undefined: none. */
export async function putQuota(db: Db, id: number, bytes: number | undefined): Promise<void> {
	await change(db, sql`UPDATE mailbox SET quota_bytes = ${bytes ?? null} WHERE id = ${id}`);
}

/** Sets how the archive of a mailbox is laid out from now on, and whether anything of it may be archived. */
export async function putArchiving(
	db: Db,
	id: number,
	{ layout, archives }: Pick<Mailbox, 'layout' | 'archives'>
): Promise<void> {
	await change(
		db,
		sql`UPDATE mailbox SET archive_paths = ${layout.paths}, archive_divide = ${layout.divide}, archives = ${Number(archives)} WHERE id = ${id}`
	);
}

/** Sets what is only known of a mailbox by being told. */
export async function putClearing(
	db: Db,
	id: number,
	{
		addresses,
		inboxAim,
		emptiesBin,
		confirmAbove,
		binDays,
		junkDays,
		clearsJunk
	}: Pick<Mailbox, 'addresses' | 'inboxAim' | 'emptiesBin' | 'confirmAbove' | 'binDays' | 'junkDays' | 'clearsJunk'>
): Promise<void> {
	await change(
		db,
		sql`UPDATE mailbox SET addresses = ${JSON.stringify(addresses)}, inbox_aim = ${inboxAim}, empties_bin = ${Number(emptiesBin)}, confirm_above = ${confirmAbove}, bin_days = ${binDays}, junk_days = ${junkDays},
			clears_junk = ${Number(clearsJunk)} WHERE id = ${id}`
	);
}

/** Sets how often a mailbox gets its digest, and into which folder. */
export async function putDigesting(
	db: Db,
	id: number,
	{ digestEvery, digestFolder }: Pick<Mailbox, 'digestEvery' | 'digestFolder'>
): Promise<void> {
	await change(
		db,
		sql`UPDATE mailbox SET digest_every = ${digestEvery}, digest_folder = ${digestFolder} WHERE id = ${id}`
	);
}

/** Sets how retention runs in a mailbox. */
export async function putRetaining(
	db: Db,
	id: number,
	{
		retains,
		retainsEvery,
		retainedOn,
		workingQuotaBytes
	}: Pick<Mailbox, 'retains' | 'retainsEvery' | 'retainedOn' | 'workingQuotaBytes'>
): Promise<void> {
	await change(
		db,
		sql`UPDATE mailbox SET retains = ${retains}, retains_every = ${retainsEvery}, retained_on = ${retainedOn ?? null}, working_quota_bytes = ${workingQuotaBytes ?? null} WHERE id = ${id}`
	);
}
