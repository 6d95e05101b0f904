import { spawnSync } from 'node:child_process';
import { appendFileSync, readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import fc from 'fast-check';
import { afterAll, describe, expect, it } from 'vitest';
import { harmlessCell, originalCell } from '../../../core/formats/csv-cells.ts';
import { MboxSplitter } from '../../../core/formats/mbox.ts';
import { mboxEntry } from '../../../core/formats/mbox-entry.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { listLedger } from '../ledger/ledger-store.ts';
import { change, rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { letter, mboxFile, openOffice, temporaryFolder } from '../testing/office.ts';
import { filledOffice } from '../testing/filled-office.ts';
import type { Context } from '../context/context.ts';
import { exportMail, type ExportOptions, exportZip } from './export-mail.ts';
import { find } from './find.ts';
import { importMailbox } from '../intake/import-mailbox.ts';

afterAll(closeParsePool);

interface PythonReading {
	messages: { folder: string; subject: string; sha256: string; flags: string }[];
	index: string[][];
}

function readByPython(format: string, folder: string): PythonReading {
	const { status, stdout, stderr } = spawnSync('python3', ['tests/python/read-export.py', format, folder], {
		encoding: 'utf8',
		maxBuffer: 2 ** 28
	});
	expect(status, stderr).toBe(0);
	return JSON.parse(stdout) as PythonReading;
}

/** The same as a zip file, unpacked by Python. */
async function unzipped(context: Context, wish: ExportOptions): Promise<string> {
	const folder = temporaryFolder();
	const file = path.join(folder, 'mail.zip');
	for await (const chunk of exportZip(context, wish)) appendFileSync(file, chunk);
	const out = path.join(folder, 'out');
	const { status, stderr } = spawnSync('python3', ['-m', 'zipfile', '-e', file, out], { encoding: 'utf8' });
	expect(status, stderr).toBe(0);
	return out;
}

const DATE = 'Mon, 3 Feb 2020 10:00:00 +0000';

describe.each([
	['mbox', 'a folder'],
	['maildir', 'a folder'],
	['mbox', 'a zip file'],
	['maildir', 'a zip file']
] as const)("%s in %s, read by Python's mailbox and zipfile", (format, form) => {
	it('has the same messages in the same folders, with the same bytes', async () => {
		const context = await openOffice();
		await importMailbox(context, {
			path: mboxFile(
				[letter('One', DATE, 'From here\n\n>From there\n>>From elsewhere'), letter('Two', DATE)],
				'Status: RO\nX-Status: AF\n'
			),
			mailbox: 'Office'
		});
		await importMailbox(context, {
			path: mboxFile([letter('=cmd()', DATE)]),
			mailbox: 'Office',
			folder: 'Projects/Slipway'
		});
		const inFolder = async () => {
			const out = path.join(temporaryFolder(), 'out');
			const result = await exportMail(context, { mailbox: 'Office', format, out });
			expect(result).toMatchObject({ written: 3, finished: true, damaged: [] });
			return out;
		};
		const out = form === 'a folder' ? await inFolder() : await unzipped(context, { mailbox: 'Office', format });
		const { messages, index } = readByPython(format, out);
		expect(messages.map(({ folder, subject }) => `${folder}: ${subject}`).sort()).toEqual([
			'Inbox: One',
			'Inbox: Two',
			'Projects/Slipway: =cmd()'
		]);
		const stored = await rows<{ sha: string }>(
			context.db,
			sql`SELECT lower(hex(sha256)) AS sha FROM content ORDER BY 1`
		);
		expect(messages.map(({ sha256 }) => sha256).sort()).toEqual(stored.map(({ sha }) => sha));
		if (format === 'maildir') expect(messages.map(({ flags }) => flags).sort()).toEqual(['', 'FRS', 'FRS']);
		expect(index[0]?.slice(0, 3)).toEqual(['file', 'folder', 'state']);
		expect(
			index
				.slice(1)
				.map((line) => line.at(-1))
				.sort()
		).toEqual(stored.map(({ sha }) => sha));
		expect(index.flat()).toContain(`'=cmd()`);
	});
});

/* Names that are the same as names of files, too long for one, or those of the file of another folder. */
const ODD_FOLDERS = [
	...['Crew|Fees', 'Crew_Fees', 'Crew?Fees', 'con', '_con', '.dot', 'dot', 'St. Brannoc', 'St_ Brannoc'],
	...['Quay.Ramp', 'Quay/Ramp', 'fees', 'fees.mbox/2024', 'INBOX (2)', '⚓'.repeat(90), '台'.repeat(120)],
	...[`${'x'.repeat(99)}1`, `${'x'.repeat(99)}1/Below`, `${'x'.repeat(99)}2`],
	...['1', '2'].map((end) => [...Array.from({ length: 6 }, (_, n) => '岸'.repeat(20 + n)), end].join('/')),
	...['1', '2'].map((end) => Array.from({ length: 4 }, () => 'y'.repeat(79) + end).join('/'))
];

it.each(['eml', 'mbox', 'maildir'] as const)('%s keeps folders apart, whatever they are called', async (format) => {
	const context = await openOffice();
	for (const [n, folder] of ODD_FOLDERS.entries())
		await importMailbox(context, { path: mboxFile([letter(`Letter ${n}`, DATE)]), mailbox: 'Office', folder });
	await importMailbox(context, { path: mboxFile([letter('⛴'.repeat(100), DATE)]), mailbox: 'Office' });
	const count = ODD_FOLDERS.length + 1;
	const out = path.join(temporaryFolder(), 'out');
	expect(await exportMail(context, { mailbox: 'Office', format, out })).toMatchObject({ written: count, damaged: [] });
	for (const exported of [out, await unzipped(context, { mailbox: 'Office', format })]) {
		const { messages, index } = readByPython(format, exported);
		expect(new Set(messages.map(({ folder }) => folder)).size).toBe(count);
		expect(new Set(messages.map(({ sha256 }) => sha256)).size).toBe(count);
		expect(index.length).toBe(count + 1);
	}
});

it.each(['mbox', 'maildir'] as const)('%s takes all real mail of the list corpus out and in again', async (format) => {
	const context = await filledOffice('lists');
	const out = path.join(temporaryFolder(), 'out');
	const { written } = await exportMail(context, { mailbox: 'Office', format, out });
	expect(readByPython(format, out).messages.length).toBe(written);
	const again = await openOffice();
	const result = await importMailbox(again, { path: out, mailbox: 'Lists' });
	expect(result).toMatchObject({ read: written, added: written, unreadable: 0 });
});

it.each(['a folder', 'a zip file'])(
	'a Maildir in %s comes in again with its folders, flags and dates',
	async (form) => {
		const context = await openOffice();
		const sent = letter('Two', DATE).replace(/^Received:.*\n( .*\n)*/gm, '');
		await importMailbox(context, {
			path: mboxFile([letter('One', DATE)], 'Status: RO\nX-Status: AF\n'),
			mailbox: 'Office'
		});
		await importMailbox(context, { path: mboxFile([sent]), mailbox: 'Office', folder: 'Projects/Fähre & Kai' });
		const places = ({ db }: Context) =>
			rows(
				db,
				sql`SELECT folder.path, subject, ifnull(seen, 0) AS seen, answered, flagged, item.received_at FROM item JOIN folder ON folder.id = folder_id
			 JOIN message ON message.id = item.message_id ORDER BY subject`
			);
		let out = path.join(temporaryFolder(), 'out');
		if (form === 'a folder') await exportMail(context, { mailbox: 'Office', format: 'maildir', out });
		else {
			out = path.join(temporaryFolder(), 'mail.zip');
			for await (const chunk of exportZip(context, { mailbox: 'Office', format: 'maildir' }))
				appendFileSync(out, chunk);
		}
		const again = await openOffice();
		expect(await importMailbox(again, { path: out, mailbox: 'Office' })).toMatchObject({
			read: 2,
			added: 2,
			unreadable: 0
		});
		expect(await places(again)).toEqual(await places(context));
	}
);

describe('an mbox entry', () => {
	it('is read again as it was, save that a missing final line break is added', () => {
		const line = fc.constantFrom(
			'From x',
			'>From y',
			'>>From z',
			'Subject: x',
			'',
			'words',
			'From a@b.example Thu Aug 22 12:46:39 2002',
			'\r'
		);
		fc.assert(
			fc.property(
				fc.array(fc.array(line, { maxLength: 10 }), { minLength: 1, maxLength: 4 }),
				fc.boolean(),
				(messages, final) => {
					const encoder = new TextEncoder();
					const given = messages.map((lines) =>
						encoder.encode(`Subject: s\n\n${lines.join('\n')}${final ? '\n' : ''}`)
					);
					const splitter = new MboxSplitter();
					const file = Buffer.concat(given.map((bytes) => mboxEntry(bytes, 'a@b.example', 0)));
					const found = [...splitter.push(file), ...splitter.end()].map(({ bytes }) => Buffer.from(bytes).toString());
					expect(found).toEqual(
						given.map((bytes) =>
							Buffer.from(bytes)
								.toString()
								.replace(/([^\n])$/, '$1\n')
						)
					);
				}
			)
		);
	});

	it('has a From line of RFC 4155 whatever the sender is called', () => {
		const first = (sender: string, at: number | undefined) =>
			Buffer.from(mboxEntry(new Uint8Array(), sender, at))
				.toString()
				.split('\n')[0];
		expect(first('a@b.example', 1_030_020_399)).toBe('From a@b.example Thu Aug 22 12:46:39 2002');
		expect(first('a b@c', undefined)).toBe('From ab@c Thu Jan  1 00:00:00 1970');
		expect(first('', 0)).toBe('From MAILER-DAEMON Thu Jan  1 00:00:00 1970');
	});
});

describe('cells that a spreadsheet would run (OWASP)', () => {
	it.each([
		['=1+1', `'=1+1`],
		['@sum', `'@sum`],
		['-x', `'-x`],
		['\t=1', `'\t'=1`],
		[' =1', ` '=1`],
		['\uff1dcmd', `'\uff1dcmd`],
		['Hello;=cmd|calc', `Hello;'=cmd|calc`],
		['Hello; "@sum"', `Hello; "'@sum"`],
		['one\n+two', `one\n'+two`],
		[`'=1`, `''=1`],
		['words', 'words'],
		['berth-plan = 3; two', 'berth-plan = 3; two'],
		['', ''],
		[null, ''],
		[-5, '-5']
	])('%j', (cell, written) => {
		expect(harmlessCell(cell)).toBe(written);
		if (typeof cell === 'string') expect(originalCell(written)).toBe(cell);
	});
});

describe('a part of a mailbox', () => {
	async function filled(): Promise<Context> {
		const context = await openOffice();
		const mail: [string, string[]][] = [
			['Inbox', ['One', 'Two']],
			['Projects', ['Three']],
			['Projects/Slipway', ['Four']]
		];
		for (const [folder, subjects] of mail)
			await importMailbox(context, {
				path: mboxFile(subjects.map((subject) => letter(subject, DATE))),
				mailbox: 'Office',
				folder
			});
		return context;
	}
	const subjects = (out: string) =>
		readdirSync(out, { recursive: true, withFileTypes: true })
			.filter((entry) => entry.name.endsWith('.eml'))
			.map((entry) => /Subject: (.*)/.exec(readFileSync(path.join(entry.parentPath, entry.name), 'utf8'))?.[1])
			.sort();

	it.each<[string, Partial<ExportOptions>, string[]]>([
		['a folder with its subfolders', { folder: 'projects' }, ['Four', 'Three']],
		['a search', { query: 'two or four' }, ['Four', 'Two']],
		['a search that is being written', { query: 'thr', typing: true }, ['Three']],
		['a selection', { ids: [1, 4] }, ['Four', 'One']],
		['all mailboxes', { mailbox: undefined, query: '' }, ['Four', 'One', 'Three', 'Two']]
	])('%s', async (_name, wish, expected) => {
		const context = await filled();
		expect(subjects(await unzipped(context, { mailbox: 'Office', format: 'eml', ...wish }))).toEqual(expected);
	});

	it('with folders whose names become the same: none is written over another', async () => {
		const context = await openOffice();
		for (const folder of ['a:b', 'a;c', 'a?b', 'A_B'])
			await importMailbox(context, {
				path: mboxFile([letter(`In ${folder.length}${folder}`, DATE)]),
				mailbox: 'Office',
				folder
			});
		for (const format of ['mbox', 'eml'] as const) {
			const out = await unzipped(context, { mailbox: 'Office', format });
			expect(
				readdirSync(out)
					.map((name) => name.toLowerCase().replace('.mbox', ''))
					.sort()
			).toEqual(['a;c', 'a_b', 'a_b (2)', 'a_b (3)', 'index.csv']);
		}
	});

	it('of which one is damaged on the disk: all others are written, and it is named', async () => {
		const context = await filled();
		await change(context.db, sql`UPDATE content SET data = x'00' WHERE id = 2`);
		const out = path.join(temporaryFolder(), 'out');
		const result = await exportMail(context, { mailbox: 'Office', format: 'eml', out });
		expect(result).toMatchObject({ written: 3, damaged: ['Inbox/2020-02-03 Two (2).eml'], finished: true });
		expect(readFileSync(path.join(out, 'damaged and not written.txt'), 'utf8')).toBe('Inbox/2020-02-03 Two (2).eml\n');
	});

	it('that nobody reads to its end is in the ledger as unfinished', async () => {
		const context = await filled();
		const stream = exportZip(context, { mailbox: 'Office', format: 'eml' });
		await stream.next();
		await stream.return(undefined);
		expect((await listLedger(context.db)).find(({ action }) => action === 'exported')?.details).toMatchObject({
			finished: false
		});
		expect((await find(context, { query: '', limit: 1 })).total).toBe(4);
	});
});
