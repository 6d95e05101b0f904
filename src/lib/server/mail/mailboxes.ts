import { showBytes } from '../../../core/weigh/units.ts';
import { type Db, inTransaction } from '../database/index.ts';
import { appendLedger } from '../ledger/index.ts';
import { addMailbox, findMailbox, getMailbox, listMailboxes, type Mailbox, putQuota } from './mailboxes-store.ts';
import { type Context, defineUseCase, mailboxRef } from '../context/index.ts';
import { Refusal } from '../refusal.ts';
import { findFolder, folderWithBelow } from './folders-store.ts';
import Joi from 'joi';

/** A mailbox by its name or its number. */
export type MailboxRef = string | number;

/** The mailbox of that name or number. @throws Refusal */
export async function requireMailbox(context: Context, ref: MailboxRef): Promise<Mailbox> {
	if (typeof ref === 'number') return requireMailboxId(context, ref);
	const found = await findMailbox(context.db, ref);
	if (!found) throw new Refusal('not-found', `There is no mailbox "${ref}". Nothing was done.`);
	return found;
}

/** The mailbox with that id. @throws Refusal */
export async function requireMailboxId({ db }: Context, id: number): Promise<Mailbox> {
	const found = await getMailbox(db, id);
	if (!found) throw new Refusal('not-found', `There is no mailbox ${id}. Nothing was done.`);
	return found;
}

/**
 * The mailboxes of a selection, by name.
 *
 * @param ids undefined: all mailboxes
 * @throws Refusal if one is unknown
 */
export async function requireMailboxes({ db }: Context, ids: readonly number[] | undefined): Promise<Mailbox[]> {
	const everything = await listMailboxes(db);
	if (ids === undefined) return everything;
	const wanted = new Set(ids);
	const found = everything.filter(({ id }) => wanted.has(id));
	if (found.length < wanted.size)
		throw new Refusal('not-found', 'There is no such mailbox any more. Select the mailboxes again. Nothing was done.');
	return found;
}

/** The mailbox of that name, created if it is new. Needs a transaction. */
export async function ensureMailbox(context: Context, db: Db, name: string): Promise<Mailbox> {
	const found = await findMailbox(db, name);
	if (found) return found;
	if (name.trim() === '') throw new Refusal('bad-input', 'A mailbox needs a name. Nothing was done.');
	const id = await addMailbox(db, name, context.now().toISOString());
	await appendLedger(db, {
		at: context.now(),
		by: context.actor,
		action: 'mailbox-made',
		details: { mailbox: name.trim() }
	});
	return (await getMailbox(db, id)) as Mailbox;
}

/** Sets the quota of a mailbox, created if it is new. */
export async function setQuota(
	context: Context,
	input: { mailbox: MailboxRef; bytes: number | undefined }
): Promise<Mailbox> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const mailbox =
			typeof input.mailbox === 'number'
				? await requireMailboxId(within, input.mailbox)
				: await ensureMailbox(within, db, input.mailbox);
		await putQuota(db, mailbox.id, input.bytes);
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'quota-set',
			details: {
				mailbox: mailbox.name,
				quota: input.bytes === undefined ? 'none' : showBytes(input.bytes),
				before: mailbox.quotaBytes === undefined ? 'none' : showBytes(mailbox.quotaBytes)
			}
		});
		return { ...mailbox, quotaBytes: input.bytes };
	});
}

/** A folder of a mailbox, with its subfolders. @throws Refusal */
export async function requireFolder(
	{ db }: Context,
	mailbox: Mailbox,
	path: string
): Promise<{ id: number; path: string; ids: number[] }> {
	const folder = await findFolder(db, mailbox.id, 'mailbox', path);
	if (!folder) throw new Refusal('not-found', `${mailbox.name} has no folder "${path}". Nothing was done.`);
	return { id: folder.id, path: folder.path, ids: await folderWithBelow(db, folder.id) };
}

/** The use cases of this file. */
export const mailboxesUseCases = [
	defineUseCase({
		name: 'setQuota',
		input: () => Joi.object({ mailbox: mailboxRef.required(), bytes: Joi.number() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: setQuota
	})
] as const;
