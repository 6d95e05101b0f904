import { administratorNamed } from '../../../core/access/roles.ts';
import { row } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { prepareEmptying } from '../archive/bin.ts';
import { carryOut } from '../docket/carry-out.ts';
import type { Context } from '../context/context.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { openContext } from '../process/open-context.ts';
import { prepareDocket } from '../docket/prepare-docket.ts';
import { letter, mboxFile, openOffice } from './office.ts';

const DATE = 'Fri, 31 May 2019 10:00:00 +0000';

/** Subjects of the messages in {@link smallOffice}. */
export const SUBJECTS = ['Alpha', 'Bravo', 'Charlie', 'Delta'];

/** The bytes of one of them. */
export const bytesOf = (subject: string) => letter(subject, DATE, `The words of ${subject}: zanzibar.`);

/** An office with one mailbox, "Office". */
export async function smallOffice(): Promise<Context> {
	const context = await openOffice();
	await importMailbox(context, { path: mboxFile(SUBJECTS.map(bytesOf)), mailbox: 'Office' });
	return context;
}

/** The number of the item with a subject. */
export async function idOf({ db }: Context, subject: string): Promise<number> {
	const found = await row<{ id: number }>(
		db,
		sql`SELECT item.id FROM item JOIN message ON message.id = item.message_id WHERE subject = ${subject}`
	);
	return found?.id as number;
}

/** Deletes one message and empties the bin. */
export async function destroy(context: Context, subject: string): Promise<void> {
	const scope = { kind: 'items' as const, ids: [await idOf(context, subject)] };
	const bin = await prepareDocket(context, { mailboxId: 1, lines: [{ decision: 'delete', options: {}, scope }] });
	await carryOut(context, { id: bin.id });
	const empty = await prepareEmptying(context, { mailboxId: 1, onlyDue: false });
	await carryOut(context, { id: empty.id, confirm: 'destroy' });
}

/** Works on a closed data folder. */
export async function opened<T>(dataFolder: string, work: (context: Context) => Promise<T>): Promise<T> {
	const context = await openContext(dataFolder, { actor: administratorNamed('tester') });
	try {
		return await work(context);
	} finally {
		await context.db.destroy();
	}
}
