import path from 'node:path';
import { afterAll, describe, expect, it, onTestFinished } from 'vitest';
import { administratorNamed } from '../../../core/access/roles.ts';
import type { Context } from '../context/context.ts';
import { rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { carryOut, takeBack } from '../docket/carry-out.ts';
import { listedDockets } from '../docket/show-docket.ts';
import { decideMessages } from '../find/decide-messages.ts';
import { listLedger } from '../ledger/ledger-store.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { openUpToDate } from '../process/open-context.ts';
import { allowWriting } from '../sources/allow-writing.ts';
import { connectSource } from '../sources/connect.ts';
import { followSources } from '../sources/follow.ts';
import { hasImapServer, ImapServer } from '../testing/imap-server.ts';
import { letter, openOffice, temporaryFolder } from '../testing/office.ts';
import { idOf } from '../testing/small-office.ts';
import { backUp } from './back-up.ts';
import { restoreBackup } from './restore-backup.ts';

afterAll(closeParsePool);

const MAILBOX = 'Office';
const pass = async (context: Context) => (await followSources(context, { mailbox: MAILBOX })).passes[0];
const archive = async (context: Context, subject: string) =>
	decideMessages(context, { decision: 'archive', options: {}, ids: [await idOf(context, subject)] });
const states = async ({ db }: Context) =>
	Object.fromEntries(
		(
			await rows<{ subject: string; state: string }>(
				db,
				sql`SELECT subject, state FROM item JOIN message ON message.id = item.message_id`
			)
		).map(({ subject, state }) => [subject, state])
	);

describe.skipIf(!hasImapServer())('restoring a backup of a live mailbox', () => {
	it('undoes nothing on its server, and deletes nothing that was archived from there since', async () => {
		const imap = await ImapServer.start(temporaryFolder(), onTestFinished);
		const messages = ['Ramp', 'Quay', 'Ice'].map((subject, day) =>
			letter(subject, `Mon, ${day + 2} Mar 2026 10:00:00 +0000`).replaceAll('\n', '\r\n')
		);
		await imap.append(
			'INBOX',
			messages.map((message) => Buffer.from(message))
		);
		const context = await openOffice();
		const account = { host: '127.0.0.1', port: imap.port, tls: 'none' as const, user: 'tester', secret: 'secret' };
		await connectSource(context, { mailbox: MAILBOX, ...account, writes: true });
		await pass(context);
		// one waits for the server in the backup, and is taken back after it
		const [decided] = await archive(context, 'Ice');
		const { file } = await backUp(context, { out: path.join(temporaryFolder(), 'backups') });
		await takeBack(context, { id: decided?.docket ?? 0 });
		await archive(context, 'Ramp');
		expect(await pass(context)).toMatchObject({ waiting: 0, errors: [] });
		expect(await imap.command('EXAMINE INBOX')).toContain('2 EXISTS');
		const { dataFolder } = context;
		await context.db.destroy();

		expect(await restoreBackup({ file, dataFolder, replace: true }, openUpToDate)).toMatchObject({
			readOnly: [MAILBOX]
		});
		const restored = await openUpToDate(dataFolder, administratorNamed('Ylva'));
		onTestFinished(() => restored.db.destroy());
		const asThen = { Ramp: 'live', Quay: 'live', Ice: 'archived' };
		expect(await states(restored)).toEqual(asThen);
		expect((await listLedger(restored.db)).map(({ action }) => action)).toContain('source-changed');
		expect(await pass(restored)).toMatchObject({
			gone: 0,
			errors: [
				expect.stringMatching(
					/^1 message of 3 is not on 127\.0\.0\.1 any more\. Kovrel may have .* to archive it, waits/
				)
			]
		});
		expect(await states(restored)).toEqual(asThen);
		expect(await imap.command('EXAMINE INBOX')).toContain('2 EXISTS');
		const [drafted] = await listedDockets(restored, { limit: 1, drafts: true });
		expect(drafted).toMatchObject({ messages: 1, state: 'drafted' });
		await carryOut(restored, { id: drafted?.id ?? 0 });
		expect(await states(restored)).toEqual({ ...asThen, Ramp: 'archived' });

		// from then on it is as ever: what others remove goes to the bin, and what waited is carried where that is allowed
		await allowWriting(restored, { mailbox: MAILBOX, writes: true });
		expect(await pass(restored)).toMatchObject({ waiting: 0, errors: [] });
		expect(await imap.command('EXAMINE INBOX')).toContain('1 EXISTS');
		await imap.command('SELECT INBOX');
		await imap.command('UID STORE 2 +FLAGS (\\Deleted)');
		await imap.command('EXPUNGE');
		expect(await pass(restored)).toMatchObject({ gone: 1, errors: [] });
		expect(await states(restored)).toMatchObject({ Quay: 'binned' });
	});
});
