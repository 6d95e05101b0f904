import type { Knex } from 'knex';
import type { Tables } from 'knex/types/tables.js';
import type { Layout } from '../../../core/archive/layout.ts';
import type { CalendarDate } from '../../../core/calendar.ts';
import type { DigestRhythm } from '../../../core/lists/digest.ts';
import type { ServerReach } from '../../../core/sources/reach.ts';
import { nameKey } from '../../../core/weigh/roles.ts';
import { type Condition, type Db, idOf, raw, row, rows, sql } from '../database/index.ts';

/** A mailbox. */
export interface Mailbox {
	id: number;
	name: string;
	/** Undefined: no quota is known. */
	quotaBytes: number | undefined;
	/** Days for which binned items can be restored. */
	binDays: number;
	/** The layout of its archive, unless a docket has its own. */
	layout: Layout;
	/** False: none of its mail may be archived. */
	archives: boolean;
	/** Its own addresses. */
	addresses: string[];
	/** The finish line: this many messages in the inbox need no scrolling. */
	inboxAim: number;
	/** Whether the scheduled run empties its bin of what is due. */
	emptiesBin: boolean;
	/** Destroying more messages than this requires typing the mailbox's name. */
	confirmAbove: number;
	/** Days after which junk goes to the bin, and whether the scheduled run does so. */
	junkDays: number;
	clearsJunk: boolean;
	digestEvery: DigestRhythm;
	digestFolder: string;
	/** The scheduled run's mode for what is due, and its interval in days. */
	retains: Retaining;
	retainsEvery: number;
	/** When the schedule was last applied. */
	retainedOn: CalendarDate | undefined;
	/** Where it lives, if that is a server. */
	server: ServerReach | undefined;
}

/** The scheduled run of retention in a mailbox: off, ask first, automatic. */
export const RETAINING = ['off', 'ask', 'do'] as const;
export type Retaining = (typeof RETAINING)[number];

/* The columns of a mailbox; the rest of its row belongs to other rooms. */
const COLUMNS = [
	'id',
	'name',
	'quota_bytes',
	'bin_days',
	'archive_levels',
	'archives',
	'addresses',
	'inbox_aim',
	'empties_bin',
	'confirm_above',
	'junk_days',
	'clears_junk',
	'digest_every',
	'digest_folder',
	'retains',
	'retains_every',
	'retained_on'
] as const;

type MailboxRow = Pick<Knex.ResolveTableType<Tables['mailbox']>, (typeof COLUMNS)[number]> & { server: string | null };

/* Mailboxes with what is shown of them, and their servers with what is needed to say what decisions reach there. */
async function mailboxes(db: Db, where: Condition): Promise<Mailbox[]> {
	const found = await rows<MailboxRow>(
		db,
		sql`SELECT ${raw(COLUMNS.join(', '))}, (
			SELECT json_object('host', host, 'writes', json(iif(writes, 'true', 'false')), 'archiveOn', archive_on,
				'quotaUsed', quota_used, 'quotaLimit', quota_limit)
			FROM source WHERE mailbox_id = mailbox.id AND disconnected_at IS NULL) AS server
		 FROM mailbox WHERE ${where} ORDER BY name_key`
	);
	return found.map(toMailbox);
}

function toMailbox(found: MailboxRow): Mailbox {
	return {
		id: found.id,
		name: found.name,
		quotaBytes: found.quota_bytes ?? undefined,
		binDays: found.bin_days,
		layout: JSON.parse(found.archive_levels) as Layout,
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
		server: found.server === null ? undefined : (JSON.parse(found.server) as ServerReach)
	};
}

/** All mailboxes by name. */
export async function listMailboxes(db: Db): Promise<Mailbox[]> {
	return mailboxes(db, sql`1`);
}

/** The mailbox of that name, regardless of case and accents. */
export async function findMailbox(db: Db, name: string): Promise<Mailbox | undefined> {
	return (await mailboxes(db, sql`name_key = ${nameKey(name)}`))[0];
}

/** The mailbox with that id. */
export async function getMailbox(db: Db, id: number): Promise<Mailbox | undefined> {
	return (await mailboxes(db, sql`id = ${id}`))[0];
}

/** Creates a mailbox and returns its id. Retention for all mailboxes applies to its mail from the first message. */
export async function addMailbox(db: Db, name: string, madeAt: string): Promise<number> {
	const set = await row<{ isSet: number }>(
		db,
		sql`SELECT EXISTS (SELECT 1 FROM named_retention) OR EXISTS (SELECT 1 FROM record_class WHERE retention_id IS NOT NULL) AS isSet`
	);
	const settings = set?.isSet ?? 0;
	return idOf(
		db('mailbox').insert({
			name: name.trim(),
			name_key: nameKey(name),
			made_at: madeAt,
			retention_settings: settings,
			retention_applied: settings
		})
	);
}

/** Sets the quota of a mailbox; undefined: none. */
export async function putQuota(db: Db, id: number, bytes: number | undefined): Promise<void> {
	await db('mailbox')
		.where({ id })
		.update({ quota_bytes: bytes ?? null });
}

/** Sets the layout of a mailbox's archive, and whether its mail may be archived. */
export async function putArchiving(
	db: Db,
	id: number,
	{ layout, archives }: Pick<Mailbox, 'layout' | 'archives'>
): Promise<void> {
	await db('mailbox')
		.where({ id })
		.update({ archive_levels: JSON.stringify(layout), archives: Number(archives) });
}

/** Sets details of a mailbox that a person has to enter. */
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
	await db('mailbox')
		.where({ id })
		.update({
			addresses: JSON.stringify(addresses),
			inbox_aim: inboxAim,
			empties_bin: Number(emptiesBin),
			confirm_above: confirmAbove,
			bin_days: binDays,
			junk_days: junkDays,
			clears_junk: Number(clearsJunk)
		});
}

/** Sets how often a mailbox gets its digest, and into which folder. */
export async function putDigesting(
	db: Db,
	id: number,
	{ digestEvery, digestFolder }: Pick<Mailbox, 'digestEvery' | 'digestFolder'>
): Promise<void> {
	await db('mailbox').where({ id }).update({ digest_every: digestEvery, digest_folder: digestFolder });
}

/** Sets the scheduled run of retention in a mailbox. */
export async function putRetaining(
	db: Db,
	id: number,
	{ retains, retainsEvery, retainedOn }: Pick<Mailbox, 'retains' | 'retainsEvery' | 'retainedOn'>
): Promise<void> {
	await db('mailbox')
		.where({ id })
		.update({
			retains,
			retains_every: retainsEvery,
			retained_on: retainedOn ?? null
		});
}
