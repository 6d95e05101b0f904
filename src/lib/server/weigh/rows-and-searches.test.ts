import { afterAll, describe, expect, it } from 'vitest';
import type { Context } from '../context/context.ts';
import { rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { countFound } from '../find/find.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { lotItems, listLots } from '../lots/lots.ts';
import { type Grouping, GROUPINGS } from '../../../core/lots/lots.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { filledOffice } from '../testing/filled-office.ts';
import { letter, mboxFile } from '../testing/office.ts';
import { weighMailbox } from './weigh.ts';
import { WEIGHED_BY } from './weighed-rows.ts';

afterAll(closeParsePool);

const QUOTA = ['live' as const, 'binned' as const];

/* Senders whose addresses are hard to write into a search. */
const ODD = [
	'"Ada \\"Dock\\" Quay" <"ada dock"@skerryline.example>',
	'<"a\\"b"@skerryline.example>',
	'<back\\\\slash@skerryline.example>',
	'Nobody',
	'<>',
	'undisclosed-recipients:;',
	'none <none>',
	'Kelp (the cook) <kelp+galley@Skerryline.EXAMPLE>',
	'Ä <ä@skerryline.example>',
	"O'Hara <o'hara*@skerryline.example>"
];

async function opened(mail: Parameters<typeof filledOffice>[0]): Promise<Context> {
	const context = await filledOffice(mail);
	const odd = mboxFile(ODD.map((from, n) => letter(`Odd ${n}`, 'Mon, 3 Feb 2020 10:00:00 +0000', `Words ${n}`, from)));
	await importMailbox(context, { path: odd, mailbox: 'Office' });
	return context;
}

describe.each([
	['the demo', 'demo'],
	['lists of the corpora', 'lists'],
	['broken mail of the corpora', 'enmime'],
	["Python's test mail", 'python']
] as const)('a row leads to what it counts: %s', (_name, mail) => {
	it('every row of Weigh', async () => {
		const context = await opened(mail);
		const wrong: string[] = [];
		let asked = 0;
		for (const by of WEIGHED_BY)
			for (const row of (await weighMailbox(context, { mailboxId: 1, by })).rows) {
				const found = await countFound(context, { query: row.query, mailbox: 1, states: QUOTA });
				asked++;
				if (found !== row.messages) wrong.push(`${by} ${row.key} (${row.query}): ${row.messages}, found ${found}`);
			}
		expect(wrong).toEqual([]);
		expect(asked).toBeGreaterThan(20);
	});

	it('every row of Lots', async () => {
		const context = await opened(mail);
		const wrong: string[] = [];
		for (const by of Object.keys(GROUPINGS) as Grouping[])
			for (const lot of (await listLots(context, { mailboxId: 1, by, limit: 2_000 })).lots) {
				const { total } = await lotItems(context, { mailboxId: 1, by, key: lot.key, limit: 1 });
				if (total !== lot.messages) wrong.push(`${by} ${lot.key}: ${lot.messages}, opens ${total}`);
			}
		expect(wrong).toEqual([]);
		const [{ n } = { n: 0 }] = await rows<{ n: number }>(context.db, sql`SELECT count(*) AS n FROM item`);
		expect(n).toBeGreaterThan(ODD.length);
	});
});
