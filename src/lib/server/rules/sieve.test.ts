import { spawnSync } from 'node:child_process';
import { chmodSync, chownSync, existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { describe, expect, it } from 'vitest';
import type { NumberedRule } from '../../../core/rules/sieve.ts';
import { rulesInSieve, sieveOf } from '../../../core/rules/sieve.ts';
import { rows } from '../database/rows.ts';
import { raw as sqlName, sql } from '../database/sql.ts';
import { foldWord, wordsOf } from '../../../core/search/words.ts';
import { find } from '../find/find.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { corpusFiles } from '../testing/corpora.ts';
import { letter, mboxFile, openOffice, temporaryFolder } from '../testing/office.ts';
import { addRule, listRules, switchRule } from './rules.ts';
import { exportSieve, importSieve } from './sieve.ts';

/* Debian's Sieve compiler and interpreter (dovecot-sieve); the test set-up installs them. */
const HAS_SIEVE = existsSync('/usr/bin/sievec') && process.getuid?.() === 0;

/* As root they ask for a mail user, whose folder it is. */
function sieveFolder(): { folder: string; configuration: string } {
	const folder = temporaryFolder();
	const configuration = path.join(folder, 'sieve.conf');
	writeFileSync(
		configuration,
		`base_dir = ${folder}/run\nlog_path = ${folder}/sieve.log\nmail_uid = 5000\nmail_gid = 5000\nmail_location = maildir:${folder}/mail\npostmaster_address = postmaster@skerryline.example\nplugin {\n}\n`
	);
	mkdirSync(path.join(folder, 'mail'));
	for (const one of [folder, path.join(folder, 'mail')]) {
		chownSync(one, 5000, 5000);
		chmodSync(one, 0o755);
	}
	return { folder, configuration };
}

function compiled(script: string): { status: number | null; said: string; file: string; configuration: string } {
	const { folder, configuration } = sieveFolder();
	const file = path.join(folder, 'rules.sieve');
	writeFileSync(file, script);
	chownSync(file, 5000, 5000);
	const { status, stderr, stdout } = spawnSync('sievec', ['-c', configuration, file], { encoding: 'utf8' });
	return { status, said: stdout + stderr, file, configuration };
}

const DISCARDED = '(discarded)';

/* The folder in which a script puts a message, and the flags it adds. */
function outcome(of: { file: string; configuration: string }, message: string): { folder: string; flags: string } {
	const { stdout, stderr } = spawnSync('sieve-test', ['-c', of.configuration, of.file, message], { encoding: 'utf8' });
	const stored = /store message in folder: (.+)/.exec(stdout)?.[1]?.trim();
	const folder = stored ?? (/\* discard/.test(stdout) ? DISCARDED : /keep/i.test(stdout) ? 'INBOX' : stderr);
	return { folder, flags: /add IMAP flags:? *(.*)/.exec(stdout)?.[1]?.trim() ?? '' };
}

const rule = (id: number, also: Partial<NumberedRule>): NumberedRule => ({
	id,
	name: `Rule ${id}`,
	query: 'address:a@b.example',
	stay: {},
	then: 'archive',
	options: {},
	isOn: true,
	...also
});

/* Written by hand, after RFC 5228 (sections 2.7.4, 4, 5), 5232, 5260 and 5490. */
const WRITTEN: [name: string, rule: Partial<NumberedRule>, expected: string[]][] = [
	['an address', {}, ['if address :is :all "from" "a@b.example" {', 'fileinto :create "Archive";']],
	[
		'an organisation with its subdomains, to a folder',
		{ query: 'organisation:b.example', then: 'move', options: { folder: 'Old "B"' } },
		[
			'anyof (address :is :domain "from" "b.example", address :matches :domain "from" "*.b.example")',
			'fileinto :create "Old \\"B\\"";'
		]
	],
	[
		'a list',
		{ query: 'list:=x.example', then: 'delete' },
		['header :contains "list-id" "<x.example>"', 'fileinto :create "Trash";']
	],
	[
		'all, any and not',
		{ query: '(address:a@b.example or list:=x.example) not larger:5kB' },
		['if allof (anyof (', 'not size :over 5000)']
	],
	['size under', { query: 'smaller:10kB' }, ['size :under 10000']],
	[
		'a word of the subject',
		{ query: 'subject:ramp*' },
		['header :regex "subject" "(^|([[:space:]', '"fileinto", "mailbox", "regex"']
	],
	['a flag', { then: 'flag' }, ['addflag "\\\\Flagged";', 'require ["imap4flags"];']],
	['a keyword', { then: 'tag', options: { tag: '$Junk' } }, ['addflag "$Junk";']],
	['read', { then: 'read' }, ['addflag "\\\\Seen";']],
	['keep', { then: 'keep' }, ['keep;']],
	[
		'days',
		{ since: '2026-01-01', until: '2026-06-01' },
		['currentdate :value "ge" "date" "2026-01-01"', 'currentdate :value "lt" "date" "2026-06-01"', '"date", "fileinto"']
	],
	['the inbox', { query: 'folder:Inbox larger:1kB' }, ['allof (true, size :over 1000)']]
];

/* What cannot be known at delivery, and the reason that is given. */
const LEFT: [name: string, rule: Partial<NumberedRule>, why: RegExp][] = [
	['counts', { stay: { newest: 3 } }, /how many/],
	['ages', { stay: { olderThan: 'P30D' } }, /how old/],
	['weights', { stay: { largerInAll: 5 } }, /how much/],
	['words anywhere', { query: 'ramp' }, /header/],
	['words of the text', { query: 'body:ramp' }, /header/],
	['words of a script without blanks', { query: 'subject:船票' }, /script/],
	['a list without List-Id', { query: 'list:"=crew notes <b.example>"' }, /List-Id/],
	['a date of receipt', { query: 'since:2026-01-01' }, /day of receipt/],
	['another folder', { query: 'folder:Vessels' }, /folder is not known/],
	['a tag in the search', { query: 'tag:Ramp' }, /not known at delivery/],
	['state', { query: 'state:archived' }, /not known at delivery/],
	['unread', { query: 'unread' }, /not known at delivery/],
	['a tag that is no keyword', { then: 'tag', options: { tag: 'Two words' } }, /IMAP keyword/],
	['never archived', { then: 'never-archive' }, /nothing that a server does/],
	['what is switched off', { isOn: false }, /switched off/]
];

describe('a Sieve script', () => {
	it.each(WRITTEN)('says %s', (_name, also, expected) => {
		const { script, written, left } = sieveOf([rule(7, also)], 'Title');
		for (const part of expected) expect(script).toContain(part);
		expect({ written, left }).toEqual({ written: [7], left: [] });
	});

	it.each(LEFT)('leaves out %s', (_name, also, why) => {
		const { script, written, left } = sieveOf([rule(7, also)], 'Title');
		expect(written).toEqual([]);
		expect(left).toEqual([{ rule: 7, name: 'Rule 7', why: expect.stringMatching(why) as string }]);
		expect(script).toContain('# left out: Rule 7: ');
	});

	it('destroys nothing at delivery unless somebody asks for it', () => {
		const one = [rule(7, { then: 'delete' })];
		expect(sieveOf(one, 'Title').script).not.toContain('discard');
		expect(sieveOf(one, 'Title', { discards: true }).script).toContain('{\n    discard;\n}');
	});

	it('holds every standing decision, so that it comes in again unchanged', () => {
		const all = [...WRITTEN, ...LEFT].map(([name, also], n) =>
			rule(n, { name: `${name}\n# kovrel-rule: {}`, ...also })
		);
		const back = rulesInSieve(sieveOf(all, 'Title\nrequire "none";').script);
		expect(back).toEqual(all.map((one) => ({ ...one, id: undefined })));
	});

	it.skipIf(!HAS_SIEVE)('of all of them compiles (dovecot-sieve)', () => {
		const all = [...WRITTEN, ...LEFT].map(([name, also], n) => rule(n, { name, ...also }));
		expect(compiled(sieveOf(all, 'Title').script)).toMatchObject({ status: 0, said: '' });
		// the check can fail: the compiler names the line
		expect(compiled('if address :is "from" {').status).not.toBe(0);
	});

	it('is written and read by the use cases, word for word, and doubles nothing', async () => {
		const context = await openOffice();
		for (const mailbox of ['Office', 'Crew'])
			await importMailbox(context, { path: mboxFile([letter('A', 'Mon, 02 Mar 2026 10:00:00 +0000')]), mailbox });
		for (const given of [
			{ query: 'address:a@b.example', then: 'delete' as const, options: {}, stay: {} },
			{ query: 'ramp', then: 'tag' as const, options: { tag: 'Ramp' }, stay: { newest: 3, per: 'list' as const } }
		])
			await addRule(context, { mailbox: 'Office', rule: given });
		await switchRule(context, { id: 2, isOn: false });
		const { script, written, left } = await exportSieve(context, { mailbox: 'Office' });
		expect({ written, left }).toMatchObject({ written: [1], left: [{ rule: 2, why: 'it is switched off' }] });
		expect(await importSieve(context, { mailbox: 'Office', script })).toEqual({ added: [], same: 2 });
		expect(await importSieve(context, { mailbox: 'Crew', script })).toEqual({ added: [3, 4], same: 0 });
		const said = async (mailbox: string) =>
			(await listRules(context, { mailbox })).map(({ sentence, name, isOn }) => [name, sentence, isOn]);
		expect(await said('Crew')).toEqual(await said('Office'));
		const again = (await exportSieve(context, { mailbox: 'Crew' })).script;
		expect(again.replace('of Crew,', 'of Office,')).toBe(script);
		for (const wrong of ['keep;', '# kovrel-rule: {"name"', '# kovrel-rule: {"name":"x","query":"a","then":"destroy"}'])
			await expect(importSieve(context, { mailbox: 'Crew', script: wrong })).rejects.toThrow('Nothing was changed');
		expect(await listRules(context, { mailbox: 'Crew' })).toHaveLength(2);
	});
});

/* Subjects in which words end in other ways than at a blank; each is one message. */
const SUBJECTS = [
	'Ramp',
	'ramps and berths',
	'Re: [ramp] "berth"',
	'=?utf-8?q?Caf=C3=A9_on_the_ferry?=',
	'=?iso-8859-1?q?CAF=C9?= closed',
	'=?utf-8?q?=C3=A9clair_=E2=80=9Cramp=E2=80=9D?=',
	'=?utf-8?b?w5hSRVNVTkQ=?= timetable',
	'=?utf-8?q?Stra=C3=9Fe_Nr=2E_7?=',
	'ramp_2 of 7',
	'a folded\n ramp berth',
	'decafe clairvoyance ramparts',
	'cafe-ramp/berth'
];
/* Counted by hand. */
const QUESTIONS: [words: string, messages: number][] = [
	['ramp', 6],
	['ramp*', 8],
	['cafe', 3],
	['CAFÉ', 3],
	['clair', 0],
	['clair*', 1],
	['øresund', 1],
	['oresund', 0],
	['straße', 1],
	['strasse', 0],
	['7', 2],
	['"ramp berth"', 3]
];

describe.skipIf(!HAS_SIEVE)('words of a subject', () => {
	it.each(QUESTIONS)('subject:%s is found alike by sieve-test and by Kovrel', async (words, messages) => {
		const context = await openOffice();
		const folder = temporaryFolder();
		const files = SUBJECTS.map((subject, n) => {
			const file = path.join(folder, `${String(n).padStart(2, '0')}.eml`);
			writeFileSync(file, letter(subject, 'Mon, 02 Mar 2026 10:00:00 +0000', `Text ${n}`));
			chmodSync(file, 0o644);
			return file;
		});
		chmodSync(folder, 0o755);
		await importMailbox(context, { path: folder, mailbox: 'Office', folder: 'Inbox' });
		const query = `subject:${words}`;
		const script = compiled(sieveOf([rule(1, { query, then: 'move', options: { folder: 'R' } })], 'Words').script);
		expect(script).toMatchObject({ status: 0, said: '' });
		const { hits } = await find(context, { query, states: ['live'], limit: 100 });
		const texts = await rows<{ id: number; subject: string }>(context.db, sql`SELECT id, subject FROM message`);
		const byKovrel = texts.filter(({ id }) => hits.some(({ messageNumber }) => messageNumber === id));
		expect(byKovrel).toHaveLength(messages);
		const bySieve = files.filter((file) => outcome(script, file).folder === 'R');
		expect(bySieve.map((file) => Number(path.basename(file, '.eml')))).toEqual(
			byKovrel.map(({ id }) => id - 1).sort((a, b) => a - b)
		);
	});
});

/* So many messages of the lists' corpus: each is a run of the interpreter. */
const MOST = 250;

describe.skipIf(!HAS_SIEVE)('on real mail, an interpreter of Sieve', () => {
	it.each([
		{ corpus: 'lists', each: 9, atLeast: 150, folders: 12 },
		{ corpus: 'python', each: 1, atLeast: 30, folders: 8 },
		{ corpus: 'enmime', each: 1, atLeast: 40, folders: 8 }
	] as const)(
		'does what Kovrel finds in $corpus (sieve-test of dovecot-sieve)',
		async ({ corpus, each, ...wanted }) => {
			const files = corpusFiles(corpus)
				.filter((_file, n) => n % each === 0)
				.slice(0, MOST);
			const context = await openOffice();
			const folder = temporaryFolder();
			// one message a file, known by its name's place in the subject's stead: its bytes
			const numbers = new Map<string, string>();
			for (const [n, file] of files.entries()) {
				const bytes = readFileSync(file);
				const start = bytes.subarray(0, 5).toString() === 'From ' ? bytes.indexOf(10) + 1 : 0;
				const eml = path.join(folder, `${String(n).padStart(4, '0')}.eml`);
				writeFileSync(eml, bytes.subarray(start));
				chmodSync(eml, 0o644);
				numbers.set(String(n), eml);
			}
			chmodSync(folder, 0o755);
			await importMailbox(context, { path: folder, mailbox: 'Office', folder: 'Inbox' });
			// the senders, organisations and lists that write most, and a size between them
			const most = async (column: string, table: string, of: string, limit: number) =>
				rows<{ value: string }>(
					context.db,
					sql`SELECT value FROM (SELECT ${sqlName(column)} AS value, count(*) AS n FROM item JOIN ${sqlName(table)} ON ${sqlName(table)}.id = item.${sqlName(of)} GROUP BY 1)
				 WHERE value <> '' AND value NOT LIKE '% %' AND value NOT LIKE '%<%' ORDER BY n DESC, value LIMIT ${limit}`
				);
			const [sender] = await most('address', 'correspondent', 'correspondent_id', 1);
			const words = await rows<{ subject: string; name: string }>(
				context.db,
				sql`SELECT subject, from_name AS name FROM message WHERE subject LIKE '% %' AND from_name LIKE '% %' ORDER BY id`
			);
			const frequent = (texts: string[]) => {
				const counts = new Map<string, number>();
				for (const word of texts.flatMap((text) => [...new Set(wordsOf(text).map(foldWord))]))
					if (word.length > 2) counts.set(word, (counts.get(word) ?? 0) + 1);
				return [...counts].sort(([a, n], [b, m]) => m - n || (a < b ? -1 : 1)).map(([word]) => word);
			};
			const [organisation, second] = await most('domain', 'organisation', 'organisation_id', 2);
			const queries = [
				`address:"${sender?.value ?? ''}"`,
				`organisation:"${organisation?.value ?? ''}" not larger:3kB`,
				`(organisation:"${second?.value ?? ''}" or larger:12kB) smaller:40kB`,
				...frequent(words.map(({ subject }) => subject))
					.slice(0, 12)
					.map((word) => `subject:${word} not larger:9kB`),
				...frequent(words.map(({ name }) => name))
					.slice(0, 12)
					.map((word) => `from:${word} or to:${word} or cc:${word}`),
				'larger:2500'
			];
			const rules = queries.map((query, n) =>
				n === 1 ? rule(n, { query, then: 'delete' }) : rule(n, { query, then: 'move', options: { folder: `R${n}` } })
			);
			const script = compiled(sieveOf(rules, 'Corpus', { discards: true }).script);
			expect(script).toMatchObject({ status: 0, said: '' });
			// by Kovrel: the first that finds a message
			const expected = new Map<string, string>();
			for (const { query, then, options } of rules)
				for (const { messageNumber } of (await find(context, { query, states: ['live'], limit: 1_000 })).hits) {
					const key = String(messageNumber);
					if (!expected.has(key)) expected.set(key, then === 'delete' ? DISCARDED : (options.folder ?? ''));
				}
			const stored = await rows<{ id: number; sha: string }>(
				context.db,
				sql`SELECT message.id, hex(sha256) AS sha FROM message JOIN content ON content.id = message.content_id`
			);
			const { createHash } = await import('node:crypto');
			const shas = new Map(stored.map(({ id, sha }) => [sha.toLowerCase(), String(id)]));
			const differing: string[] = [];
			let compared = 0;
			for (const eml of numbers.values()) {
				const id = shas.get(createHash('sha256').update(readFileSync(eml)).digest('hex'));
				if (id === undefined) continue;
				compared++;
				const { folder: into } = outcome(script, eml);
				const by = expected.get(id) ?? 'INBOX';
				if (into !== by) differing.push(`${path.basename(eml)}: ${by} by Kovrel, ${into} by sieve-test`);
			}
			expect(compared).toBeGreaterThan(wanted.atLeast);
			expect(new Set(expected.values()).size).toBeGreaterThanOrEqual(wanted.folders);
			expect(differing).toEqual([]);
		}
	);
});
