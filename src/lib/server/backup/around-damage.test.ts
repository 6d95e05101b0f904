import { readdirSync } from 'node:fs';
import path from 'node:path';
import { afterAll, describe, expect, it, onTestFinished } from 'vitest';
import { administratorNamed } from '../../../core/access/roles.ts';
import { find } from '../find/find.ts';
import { exportMail } from '../find/export-mail.ts';
import { readMessage } from '../find/read-message.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { openContext } from '../process/open-context.ts';
import { breakPage } from '../testing/damage.ts';
import { largeOffice } from '../testing/large-office.ts';
import { temporaryFolder } from '../testing/office.ts';
import { weighMailbox } from '../weigh/weigh.ts';
import { backUp } from './back-up.ts';
import { verify } from './verify-archive.ts';

afterAll(closeParsePool);

const MESSAGES = 600;

describe('around a broken page of contents', () => {
	it('the rest is weighed, found, read, exported and saved, and what is damaged is named', async () => {
		const before = await largeOffice({ Inbox: MESSAGES });
		const { dataFolder } = before;
		await before.db.destroy();
		breakPage(dataFolder, 'content');
		const context = await openContext(dataFolder, { actor: administratorNamed('tester') });
		onTestFinished(() => context.db.destroy());
		const lost = (await verify(context)).damaged.filter(({ what }) => what === 'content').length;
		expect(lost).toBeGreaterThan(0);
		expect(lost).toBeLessThan(MESSAGES / 2);

		expect((await weighMailbox(context, { mailboxId: 1 })).mailbox.messages).toBe(MESSAGES);
		const found = await find(context, { query: 'words', limit: MESSAGES });
		expect(found.total).toBe(MESSAGES);
		let unreadable = 0;
		for (const { id } of found.hits) {
			await readMessage(context, { id }).catch((error: Error) => {
				expect(error.message).toMatch(/are damaged; restore them from a backup/);
				unreadable++;
			});
		}
		expect(unreadable).toBe(lost);

		const out = path.join(temporaryFolder(), 'out');
		const exported = await exportMail(context, { mailbox: 'Office', format: 'eml', out });
		expect(exported).toMatchObject({ written: MESSAGES - lost, finished: true });
		expect(exported.damaged).toHaveLength(lost);
		expect(readdirSync(path.join(out, 'Inbox'))).toHaveLength(MESSAGES - lost);

		const { damage, messages } = await backUp(context, { out: temporaryFolder() });
		expect(messages).toBe(MESSAGES);
		expect(damage?.join()).toContain(`the bytes of ${lost} contents`);
	});
});
