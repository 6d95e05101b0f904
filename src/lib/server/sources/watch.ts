import type { ImapFlow } from 'imapflow';
import { ServerPaths } from '../../../core/sources/paths.ts';
import { type Context, defineUseCase } from '../context/index.ts';
import { requireMailboxId } from '../mail/index.ts';
import { accountOf } from './connect.ts';
import { clientFor } from './imap.ts';
import { listStoredSources, type Source } from './sources-store.ts';

/*
 * Servers that can say by themselves when something happens in an inbox (IDLE, RFC 2177) are listened to, on a line of
 * their own that opens the inbox for reading only. Whatever else happens there is found by the look of every minute.
 */

interface Watch {
	/** How the server is reached: another way is another watch. */
	way: string;
	client: ImapFlow | undefined;
	/** Whether it has said something since it was asked last. */
	hasSpoken: boolean;
	/** A line that could not be opened, or broke, is tried again from then on; milliseconds of the process. */
	againAt: number;
}

const AGAIN_MS = 60_000;

const watches = new Map<number, Watch>();

const wayOf = ({ host, port, tls, user, root }: Source) => JSON.stringify([user, host, port, tls, root]);

async function listen(context: Context, source: Source, watch: Watch): Promise<void> {
	const account = await accountOf(context, source);
	if (!account) return;
	const client = await clientFor(account);
	watch.client = client;
	const speaks = () => (watch.hasSpoken = true);
	for (const event of ['exists', 'expunge', 'flags'] as const) client.on(event, speaks);
	try {
		await client.connect();
		if (!client.capabilities.has('IDLE')) {
			watch.againAt = Infinity;
			return;
		}
		const { inbox } = new ServerPaths(source.root === '' ? [] : await client.list(), source);
		await client.mailboxOpen(inbox, { readOnly: true });
		while (client.usable && watches.get(source.id) === watch) await client.idle();
	} finally {
		client.close();
		watch.client = undefined;
	}
}

function begin(context: Context, source: Source, watch: Watch): void {
	watch.againAt = performance.now() + AGAIN_MS;
	// a server that is not there is said by the pass over it
	listen(context, source, watch).catch(() => undefined);
}

/**
 * Listens to the servers of the live mailboxes, and says which of them have spoken since.
 *
 * @returns the mailboxes of those, and whether there are any to listen to
 */
async function serversHaveSpoken(context: Context): Promise<{ mailboxes: string[]; listens: boolean }> {
	const sources = await listStoredSources(context.db);
	const mailboxes: string[] = [];
	for (const [id, { way, client }] of watches)
		if (!sources.some((source) => source.id === id && wayOf(source) === way)) {
			watches.delete(id);
			client?.close();
		}
	for (const source of sources) {
		const watch = watches.get(source.id) ?? { way: wayOf(source), client: undefined, hasSpoken: false, againAt: 0 };
		watches.set(source.id, watch);
		if (watch.hasSpoken) mailboxes.push((await requireMailboxId(context, source.mailboxId)).name);
		watch.hasSpoken = false;
		// before the first pass there is nothing to be told; with one connection, there is none beside a pass
		if (source.connections === 1) {
			watch.client?.close();
			continue;
		}
		if (!watch.client && source.passedAt !== null && performance.now() >= watch.againAt) begin(context, source, watch);
	}
	return { mailboxes, listens: sources.length > 0 };
}

/** Ends listening. */
export function stopListening(): void {
	for (const { client } of watches.values()) client?.close();
	watches.clear();
}

/** The use cases of this file. */
export const watchUseCases = [
	defineUseCase({ name: 'serversHaveSpoken', thread: 'opener', right: 'administrator', run: serversHaveSpoken })
] as const;
