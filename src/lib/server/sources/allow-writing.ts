import Joi from 'joi';
import { type Context, defineUseCase, mailboxRef } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import { appendLedger } from '../ledger/index.ts';
import { type Mailbox, type MailboxRef, noteForServer } from '../mail/index.ts';
import { countDecidedEarlier, decidedEarlier, retryOutbox } from './outbox-store.ts';
import { requireSource } from './require-source.ts';
import { putWriting, type Source } from './sources-store.ts';

const follow = (context: Context, mailbox: Mailbox) =>
	context.follow(context.db, {
		useCase: 'followSources',
		input: { mailbox: mailbox.name },
		about: { kind: 'live mailboxes', mailbox: mailbox.name }
	});

/** How Kovrel works with a server. */
interface Writing {
	mailbox: string;
	writes: boolean;
	archiveOn: Source['archiveOn'];
	/** Messages that were archived, deleted or moved here earlier, and of which the server still has to show that. */
	earlier: number;
}

/**
 * Says whether decisions on a live mailbox are carried to its server, and where archived mail goes. Without writing, the
 * server is only read, and what waited for it stays here alone.
 *
 * @param input.earlier whether what was archived, deleted or moved here while the server was only read is carried there
 *   as well; what was destroyed here stays there
 * @throws Refusal
 */
export async function allowWriting(
	context: Context,
	input: {
		mailbox: MailboxRef;
		writes: boolean;
		archiveOn?: Source['archiveOn'] | undefined;
		earlier?: boolean | undefined;
	}
): Promise<Writing> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const { mailbox, source } = await requireSource(within, input.mailbox);
		const { writes, archiveOn = source.archiveOn } = input;
		await putWriting(db, source.id, { writes, archiveOn });
		const earlier = writes ? await countDecidedEarlier(db, source.id) : 0;
		const carries = writes && input.earlier === true && earlier > 0;
		if (carries)
			await noteForServer(db, {
				mailboxId: mailbox.id,
				docketId: null,
				items: decidedEarlier(source.id),
				places: true,
				at: context.now()
			});
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'source-changed',
			details: { mailbox: mailbox.name, host: source.host, writes, archiveOn, ...(carries ? { earlier } : {}) }
		});
		if (writes) await follow(within, mailbox);
		return { mailbox: mailbox.name, writes, archiveOn, earlier: carries ? 0 : earlier };
	});
}

/** Has what a server refused tried again. @throws Refusal */
export async function retryRefused(
	context: Context,
	input: { mailbox: MailboxRef }
): Promise<{ mailbox: string; messages: number }> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const { mailbox, source } = await requireSource(within, input.mailbox);
		const messages = await retryOutbox(db, source.id);
		await follow(within, mailbox);
		return { mailbox: mailbox.name, messages };
	});
}

/** The use cases of this file. */
export const allowWritingUseCases = [
	defineUseCase({
		name: 'allowWriting',
		input: () =>
			Joi.object({
				mailbox: mailboxRef.required(),
				writes: Joi.boolean().required(),
				archiveOn: Joi.valid('kovrel', 'server'),
				earlier: Joi.boolean()
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: allowWriting
	}),
	defineUseCase({
		name: 'retryRefused',
		input: () => Joi.object({ mailbox: mailboxRef.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: retryRefused
	})
] as const;
