import { rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import type { Context } from '../context/context.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { letter, mboxFile, openOffice } from './office.ts';

const OLD = 'Mon, 3 Feb 2020 10:00:00 +0000';

/**
 * An office with one mailbox, "Office", with a given number of old messages in each named folder.
 *
 * @param folders messages by folder
 */
export async function largeOffice(folders: Record<string, number>): Promise<Context> {
	const context = await openOffice();
	for (const [folder, messages] of Object.entries(folders)) {
		const letters = Array.from({ length: messages }, (_, n) =>
			letter(`${folder} ${n}`, OLD, `Words of ${folder} ${n}.`)
		);
		await importMailbox(context, { path: mboxFile(letters), mailbox: 'Office', folder });
	}
	return context;
}

/** The number of items in each state. */
export async function statesOf({ db }: Context): Promise<Record<string, number>> {
	const found = await rows<{ state: string; n: number }>(db, sql`SELECT state, count(*) AS n FROM item GROUP BY state`);
	return Object.fromEntries(found.map(({ state, n }) => [state, n]));
}

/** Numbers of the items of a folder, or of the first of them. */
export async function itemsIn({ db }: Context, folder: string, limit = 1_000_000): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT item.id FROM item JOIN folder ON folder.id = folder_id WHERE folder.path = ${folder} ORDER BY item.id LIMIT ${limit}`
	);
	return found.map(({ id }) => id);
}
