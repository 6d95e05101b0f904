import type { Context } from '../context/context.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { CORPORA } from './corpora.ts';
import { demoFolder } from './demo-mail.ts';
import { dataFileOf, openOffice, temporaryFolder } from './office.ts';

const filled = new Map<string, Promise<Buffer>>();

/**
 * An office with one mailbox, "Office", with the mail of a corpus or the letters of the demo. They are imported once for
 * all tests of a process.
 */
export async function filledOffice(mail: keyof typeof CORPORA | 'demo'): Promise<Context> {
	const path = () => (mail === 'demo' ? demoFolder() : CORPORA[mail]);
	const known =
		filled.get(mail) ?? dataFileOf((context) => importMailbox(context, { path: path(), mailbox: 'Office' }));
	filled.set(mail, known);
	return openOffice(temporaryFolder(), await known);
}
