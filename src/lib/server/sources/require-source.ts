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
