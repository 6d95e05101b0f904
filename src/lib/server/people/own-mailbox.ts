import { ownMailboxes, type OwnMailbox } from '../access/index.ts';
import type { Context } from '../context/index.ts';
import { Refusal } from '../refusal.ts';

/** A mailbox of the person who acts. @throws Refusal, worded as for a missing one */
export async function requireOwn({ db, actor }: Context, mailboxId: number): Promise<OwnMailbox> {
	const own = actor.personId === null ? [] : await ownMailboxes(db, actor.personId);
	const found = own.find(({ id }) => id === mailboxId);
	if (!found) throw new Refusal('not-found', 'That is no mailbox of your own. Nothing was done.');
	return found;
}

/** A mailbox that the person who acts owns and may tidy. @throws Refusal */
export async function requireTidied(context: Context, mailboxId: number): Promise<OwnMailbox> {
	const own = await requireOwn(context, mailboxId);
	if (!own.tidies)
		throw new Refusal(
			'forbidden',
			`You may not tidy ${own.name}: an administrator grants that on the page People. Nothing was done.`
		);
	return own;
}
