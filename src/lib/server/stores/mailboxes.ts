import { nameKey } from '../../../core/weigh/roles.ts';
import type { Db } from '../database/open.ts';
import { change, insert, row, rows } from './rows.ts';

/** A mailbox. */
export interface Mailbox {
	id: number;
	name: string;
	/** Undefined: no quota is known. */
	quotaBytes: number | undefined;
	/** Days for which deleted items can be had back. */
	binDays: number;
}

interface MailboxRow {
	id: number;
	name: string;
	quota_bytes: number | null;
	bin_days: number;
}

const COLUMNS = `id, name, quota_bytes, bin_days`;

function toMailbox({ id, name, quota_bytes, bin_days }: MailboxRow): Mailbox {
	return { id, name, quotaBytes: quota_bytes ?? undefined, binDays: bin_days };
}

/** All mailboxes by name. */
export async function listMailboxes(db: Db): Promise<Mailbox[]> {
	return (await rows<MailboxRow>(db, `SELECT ${COLUMNS} FROM mailbox ORDER BY name_key`)).map(toMailbox);
}

/** The mailbox of that name, without regard to case and accents. */
export async function findMailbox(db: Db, name: string): Promise<Mailbox | undefined> {
	const found = await row<MailboxRow>(db, `SELECT ${COLUMNS} FROM mailbox WHERE name_key = ?`, [nameKey(name)]);
	return found && toMailbox(found);
}

/** The mailbox with that id. */
export async function getMailbox(db: Db, id: number): Promise<Mailbox | undefined> {
	const found = await row<MailboxRow>(db, `SELECT ${COLUMNS} FROM mailbox WHERE id = ?`, [id]);
	return found && toMailbox(found);
}

/** Makes a mailbox and returns its id. */
export async function addMailbox(db: Db, name: string, madeAt: string): Promise<number> {
	return insert(db, `INSERT INTO mailbox (name, name_key, made_at) VALUES (?, ?, ?)`, [
		name.trim(),
		nameKey(name),
		madeAt
	]);
}

/** Sets the quota of a mailbox; undefined: none. */
export async function putQuota(db: Db, id: number, bytes: number | undefined): Promise<void> {
	await change(db, `UPDATE mailbox SET quota_bytes = ? WHERE id = ?`, [bytes ?? null, id]);
}
