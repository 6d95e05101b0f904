import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Context } from '../../src/lib/server/context/index.ts';
import { importMailbox } from '../../src/lib/server/intake/index.ts';
import type { DemoMailbox } from '../scenario.ts';

/** A list that stopped writing to a mailbox, from a day on. */
export interface Unsubscribed {
	mailbox: string;
	from: string;
	on: Date;
}

/* Undated mail came with the first. */
const isBetween = (at: Date, since: Date | undefined, until: Date) =>
	at < until && (since === undefined ? true : at >= since);

/**
 * Imports what came into the mailboxes from one instant to another, as an office brings in its mail month by month.
 *
 * @param since undefined: from the beginning
 * @param gone lists that do not write any more
 */
export async function bringInMail(
	context: Context,
	mailboxes: readonly DemoMailbox[],
	{ since, until, gone, name }: { since: Date | undefined; until: Date; gone: readonly Unsubscribed[]; name: string }
): Promise<void> {
	const folder = mkdtempSync(path.join(tmpdir(), 'kovrel-demo-'));
	try {
		for (const { mailbox, folders } of mailboxes) {
			const left = new Map(gone.filter((one) => one.mailbox === mailbox).map(({ from, on }) => [from, on]));
			let count = 0;
			for (const { path: place, messages } of folders) {
				const came = messages.filter(({ at, from }) => isBetween(at, since, until) && at < (left.get(from) ?? until));
				if (came.length === 0) continue;
				const file = path.join(folder, mailbox, `${place}.mbox`);
				mkdirSync(path.dirname(file), { recursive: true });
				writeFileSync(file, Buffer.concat(came.map(({ entry }) => entry)));
				count += came.length;
			}
			if (count > 0)
				await importMailbox(context, { path: path.join(folder, mailbox), mailbox, source: `${mailbox}, ${name}` });
		}
	} finally {
		rmSync(folder, { recursive: true });
	}
}
