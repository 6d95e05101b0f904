import { describe, expect, it } from 'vitest';
import type { Damage } from '../../../core/archive/damage.ts';
import { setOfItem } from '../database/item-sum.ts';
import { change } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { openContext } from '../process/open-context.ts';
import { breakPage, damageRows } from '../testing/damage.ts';
import { largeOffice } from '../testing/large-office.ts';
import { verify, type VerifyResult } from './verify-archive.ts';

const MESSAGES = 600;

/** What lies in the data file of an office: closed, so that its file can be damaged. */
async function closedOffice(): Promise<string> {
	const context = await largeOffice({ Inbox: MESSAGES });
	await context.db.destroy();
	return context.dataFolder;
}

async function verified(dataFolder: string): Promise<VerifyResult> {
	const context = await openContext(dataFolder, { readonly: true });
	try {
		return await verify(context);
	} finally {
		await context.db.destroy();
	}
}

const inWords = (damaged: readonly Damage[]) => damaged.map(({ what, id }) => `${what} ${id}`);

describe('verify', () => {
	it('counts what it looked at, and finds nothing in an archive that is whole', async () => {
		expect(await verified(await closedOffice())).toMatchObject({
			ok: true,
			checked: { contents: MESSAGES, messages: MESSAGES, items: MESSAGES },
			damaged: [],
			messages: MESSAGES
		});
	});

	const named = { subject: expect.stringContaining('7') as unknown, mailbox: 'Office', folder: 'Inbox' };
	it.each<[string, string, object[]]>([
		[
			'a letter of a subject',
			`UPDATE message SET subject = subject || ' 7' WHERE id = 7`,
			[{ what: 'message', id: 7, ...named, repairable: true }]
		],
		['a hash in a message', `UPDATE message SET body_hash = x'00' WHERE id = 7`, [{ what: 'message', id: 7 }]],
		[
			'a day on which mail is due',
			`UPDATE item SET due_on = '2031-01-01' WHERE id = 7`,
			[{ what: 'item', id: 7, mailbox: 'Office' }, { what: 'summary' }]
		],
		[
			'the day of receipt',
			`UPDATE item SET received_on = '1999-12-31' WHERE id = 7`,
			[{ what: 'item', id: 7 }, { what: 'summary' }]
		],
		['a mark', `UPDATE item SET kept = 1 WHERE id = 7`, [{ what: 'item', id: 7 }]],
		[
			'two marks that changed places',
			`UPDATE item SET seen = flagged, flagged = 1 WHERE id = 7`,
			[{ what: 'item', id: 7 }, { what: 'summary' }]
		],
		['a row that is gone', `DELETE FROM item WHERE id = 7`, [{ what: 'summary' }]],
		[
			'bytes that are gone',
			`DELETE FROM content WHERE id = 7`,
			[{ what: 'message', id: 7, says: 'its bytes are not there' }]
		],
		['words that are gone', `DELETE FROM words_docsize WHERE id = 7`, [{ what: 'words', id: 7 }]],
		[
			'words of mail that is not there',
			`INSERT INTO words (rowid, subject) VALUES (9000, 'harbour')`,
			[{ what: 'words', id: 9000 }]
		],
		[
			'bytes',
			`UPDATE content SET data = zeroblob(length(data)) WHERE id = 7`,
			[{ what: 'content', id: 7, mailbox: 'Office', folder: 'Inbox' }]
		],
		[
			'a line of the ledger',
			`UPDATE ledger SET who = 'nobody' WHERE number = 2`,
			[{ what: 'ledger', id: 2, repairable: false }]
		]
	])('names %s', async (_what, statement, expected) => {
		const dataFolder = await closedOffice();
		damageRows(dataFolder, statement);
		const { ok, damaged } = await verified(dataFolder);
		expect(ok).toBe(false);
		expect(damaged).toMatchObject(expected);
		expect(damaged).toHaveLength(expected.length);
	});

	it('does not take a damaged row for a good one when it is changed later', async () => {
		const dataFolder = await closedOffice();
		damageRows(
			dataFolder,
			`UPDATE item SET received_on = '1999-12-31' WHERE id = 7; UPDATE message SET subject = 'x' WHERE id = 8`
		);
		const { db } = await openContext(dataFolder);
		await change(db, sql`UPDATE item SET ${setOfItem({ flagged: sql`1` })} WHERE id IN (7, 9)`);
		await change(db, sql`UPDATE message SET importance = 1 WHERE id IN (8, 9)`);
		await db.destroy();
		expect(inWords((await verified(dataFolder)).damaged)).toEqual(['message 8', 'item 7', 'summary null']);
	});

	/* A page of the table or index is overwritten, as by a disk that loses one (https://www.sqlite.org/dbstat.html). */
	it.each<[string, RegExp]>([
		['content', /^content \d+$/],
		['message', /^message \d+$/],
		['item', /^item \d+$/],
		['item_by_message', /^page null$/],
		['words_data', /^words|^page/],
		['ledger', /^ledger/],
		['weight_by_month', /^summary|^page/]
	])('goes on behind a broken page of %s, and says what is in it', async (name, expected) => {
		const dataFolder = await closedOffice();
		breakPage(dataFolder, name);
		const { ok, damaged, checked } = await verified(dataFolder);
		expect(ok).toBe(false);
		expect(inWords(damaged).some((one) => expected.test(one))).toBe(true);
		expect(inWords(damaged)).toContain('page null');
		// the rest was looked at
		if (name !== 'item') expect(checked.items).toBe(MESSAGES);
		if (name === 'content') {
			const lost = damaged.filter(({ what }) => what === 'content');
			expect(lost.every(({ subject, mailbox, folder }) => subject && mailbox === 'Office' && folder === 'Inbox')).toBe(
				true
			);
			expect(lost.length).toBeLessThan(MESSAGES / 2);
			expect(checked.contents).toBe(MESSAGES);
		}
	});
});
