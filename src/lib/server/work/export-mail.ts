import { createHash } from 'node:crypto';
import { mkdir, readdir, writeFile } from 'node:fs/promises';
import path from 'node:path';
import { exportFileName, exportFolder } from '../../../core/formats/export-names.ts';
import { showCount } from '../../../core/weigh/units.ts';
import { inTransaction } from '../database/open.ts';
import { readContent } from '../stores/contents.ts';
import { type ExportedItem, itemsBehind, itemsById } from '../stores/items.ts';
import { appendLedger } from '../stores/ledger.ts';
import type { Mailbox } from '../stores/mailboxes.ts';
import type { Context } from './context.ts';
import { Refusal } from '../refusal.ts';
import { findAllIds } from './find.ts';
import { requireMailbox } from './mailboxes.ts';

/** What is to be written where. */
export interface ExportInput {
	mailbox: string;
	/** Only what this finds. */
	query?: string | undefined;
	format: 'eml';
	/** A folder that is new or empty. */
	out: string;
}

/** What was written. */
export interface ExportResult {
	written: number;
	bytes: number;
}

/* In whatever state, as long as it is there. */
async function* chosenItems(
	context: Context,
	mailbox: Mailbox,
	query: string | undefined
): AsyncGenerator<ExportedItem[]> {
	if (query !== undefined) {
		const states: ('live' | 'archived' | 'binned')[] = ['live', 'archived', 'binned'];
		for await (const ids of findAllIds(context, { query, mailbox: mailbox.name, states }))
			yield itemsById(context.db, ids);
		return;
	}
	for (let after = 0; ;) {
		const items = await itemsBehind(context.db, mailbox.id, after, 1_000);
		if (items.length === 0) return;
		yield items;
		after = items.at(-1)?.id as number;
	}
}

async function emptyFolder(out: string): Promise<void> {
	await mkdir(out, { recursive: true }).catch((cause: unknown) => {
		throw new Refusal('not-possible', `The folder "${out}" cannot be made. Nothing was written.`, { cause });
	});
	if ((await readdir(out)).length > 0)
		throw new Refusal('not-possible', `The folder "${out}" is not empty. Nothing was written.`);
}

/**
 * Writes messages as files, byte for byte as they came in, in folders as they lie; one message in memory at a time.
 *
 * @throws Refusal
 */
export async function exportMail(context: Context, input: ExportInput): Promise<ExportResult> {
	const mailbox = await requireMailbox(context, input.mailbox);
	await emptyFolder(input.out);
	const result: ExportResult = { written: 0, bytes: 0 };
	const digest = createHash('sha256');
	const made = new Set<string>();
	for await (const items of chosenItems(context, mailbox, input.query)) {
		for (const item of items) {
			if (context.signal.aborted) break;
			const bytes = await readContent(context.db, item.contentId);
			if (!bytes) continue;
			const folder = path.join(input.out, ...exportFolder(item.folder));
			if (!made.has(folder)) await mkdir(folder, { recursive: true });
			made.add(folder);
			await writeFile(path.join(folder, exportFileName(item, 'eml')), bytes, { flag: 'wx' });
			digest.update(createHash('sha256').update(bytes).digest());
			result.written++;
			result.bytes += bytes.length;
		}
		context.report({ done: result.written, total: undefined, note: `${showCount(result.written)} messages written` });
	}
	await inTransaction(context.db, (db) =>
		appendLedger(db, {
			at: context.now(),
			who: context.who,
			action: 'exported',
			details: {
				mailbox: mailbox.name,
				format: input.format,
				query: input.query,
				...result,
				sha256: digest.digest('hex')
			}
		})
	);
	return result;
}
