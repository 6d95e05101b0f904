import type { Context } from '../context/index.ts';
import { type Mailbox, type MailboxRef, requireMailbox } from '../mail/index.ts';
import { Refusal } from '../refusal.ts';
import { type Source, sourceOf } from './sources-store.ts';

/** A live mailbox, by its name or number. @throws Refusal if it is none */
export async function requireSource(context: Context, ref: MailboxRef): Promise<{ mailbox: Mailbox; source: Source }> {
	const mailbox = await requireMailbox(context, ref);
	const source = await sourceOf(context.db, mailbox.id);
	if (!source)
		throw new Refusal('not-possible', `${mailbox.name} is no live mailbox: its mail was imported. Nothing was done.`);
	return { mailbox, source };
}

/** Whether a mailbox still lives where a pass over it began: it may have been disconnected, or connected elsewhere. */
export async function isConnected(context: Context, { id, mailboxId, host, user }: Source): Promise<boolean> {
	const now = await sourceOf(context.db, mailboxId);
	return now?.id === id && now.host === host && now.user === user;
}

/** Ends a pass over a server where the mailbox lives no more. @throws Refusal */
export async function requireConnected(context: Context, source: Source): Promise<void> {
	if (!(await isConnected(context, source)))
		throw new Refusal(
			'not-possible',
			`The mailbox was disconnected from ${source.host} while it was fetched. What had come in stays here.`
		);
}
