import { spawnSync } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { gzipSync } from 'node:zlib';
import { afterAll, describe, expect, it } from 'vitest';
import { maildirDirectory, maildirFolderPath, maildirInfo, readMaildirFlags } from '../../../core/formats/maildir.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { readContent } from '../mail/contents-store.ts';
import { rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { letter, mboxFile, openOffice, temporaryFolder } from '../testing/office.ts';
import { ENDING } from '../context/context.ts';
import { weighMailbox } from '../weigh/weigh.ts';
import { importMailbox } from './import-mailbox.ts';
import { filesWait } from './read-files.ts';

afterAll(closeParsePool);

/* Made by Python's tarfile, of one message. */
function tarFile(): Buffer {
	const code = `
import io, sys, tarfile
with tarfile.open(fileobj=sys.stdout.buffer, mode='w|') as made:
    entry = tarfile.TarInfo('Maildir/cur/1:2,S')
    entry.size = 5
    made.addfile(entry, io.BytesIO(b'a: b\\n'))
`;
	return spawnSync('python3', ['-c', code]).stdout;
}

/* The reference is Python's standard library, which wrote all of these (tests/python/make-mail.py). */
function pythonMail(): string {
	const folder = temporaryFolder();
	const made = spawnSync('python3', ['tests/python/make-mail.py', folder], { encoding: 'utf8' });
	expect(made.status, made.stderr).toBe(0);
	return folder;
}

const ITEMS = sql`SELECT folder.path || ': ' || subject AS line FROM item JOIN message ON message.id = item.message_id JOIN folder ON folder.id = folder_id ORDER BY item.id`;

describe('the same messages, in every form', () => {
	const inFolders = ['Inbox: One', 'Inbox: Two', 'Inbox: Three', 'Projects/Slipway: Four', 'Projects/Slipway: Five'];
	const inOne = inFolders.map((line) => line.replace('Projects/Slipway', 'Inbox'));

	it.each([
		['one.eml', ['Inbox: One']],
		['mail.mbox', inOne],
		['mail.mbox.gz', inOne],
		['tree', inFolders],
		['tree.zip', inFolders],
		['boxes', inFolders],
		['maildir', inFolders]
	])('%s', async (name, expected) => {
		const context = await openOffice();
		const folder = pythonMail();
		const result = await importMailbox(context, { path: path.join(folder, name), mailbox: 'Office' });
		expect(result).toMatchObject({ read: expected.length, added: expected.length, unreadable: 0 });
		const lines = (await rows<{ line: string }>(context.db, ITEMS)).map(({ line }) => line);
		expect(lines.sort()).toEqual([...expected].sort());
		// the bytes are those of the single files, in any container
		const stored = await rows<{ sha: string }>(context.db, sql`SELECT lower(hex(sha256)) AS sha FROM content`);
		await importMailbox(context, { path: path.join(folder, 'tree'), mailbox: 'Reference' });
		const reference = await rows<{ sha: string }>(context.db, sql`SELECT lower(hex(sha256)) AS sha FROM content`);
		expect(reference.map(({ sha }) => sha)).toEqual(expect.arrayContaining(stored.map(({ sha }) => sha)));
		expect(reference.length).toBe(5);
	});

	it('Maildir flags become read state, answered and flagged', async () => {
		const context = await openOffice();
		await importMailbox(context, { path: path.join(pythonMail(), 'maildir'), mailbox: 'Office' });
		expect(
			await rows(
				context.db,
				sql`SELECT path, seen, answered, flagged, count(*) AS n FROM item JOIN folder ON folder.id = folder_id GROUP BY 1, 2, 3, 4 ORDER BY 1`
			)
		).toEqual([
			{ path: 'Inbox', seen: 1, answered: 1, flagged: 0, n: 3 },
			{ path: 'Projects/Slipway', seen: 0, answered: 0, flagged: 1, n: 2 }
		]);
	});
});

describe('what does not fit', () => {
	it.each<[string, (folder: string) => void, object]>([
		[
			'a mailbox with one message is a folder, by its name',
			(folder) =>
				writeFileSync(
					path.join(folder, 'Drafts.mbox'),
					readFileSync(mboxFile([letter('A', 'Mon, 3 Feb 2020 10:00:00 +0000')]))
				),
			{ read: 1, added: 1 }
		],
		[
			'a mailbox without mail is none',
			(folder) => writeFileSync(path.join(folder, 'Drafts'), ''),
			{ read: 0, added: 0 }
		],
		[
			'an empty message is listed',
			(folder) => writeFileSync(path.join(folder, 'x.eml'), ''),
			{ read: 1, unreadable: 1 }
		],
		[
			'a zip in a folder is kept raw',
			(folder) => writeFileSync(path.join(folder, 'x.zip'), Buffer.from('PK\u0003\u0004 and no more')),
			{ read: 1, unreadable: 1 }
		],
		[
			'what a system writes beside mail is passed over',
			(folder) => {
				writeFileSync(path.join(folder, 'a.eml'), letter('A', 'Mon, 3 Feb 2020 10:00:00 +0000'));
				writeFileSync(path.join(folder, '._a.eml'), Buffer.from('0005160700020000', 'hex'));
				for (const name of ['.DS_Store', 'Thumbs.db', 'desktop.ini']) writeFileSync(path.join(folder, name), 'x');
			},
			{ read: 1, added: 1 }
		],
		[
			'a message behind a byte order mark or blank lines is one',
			(folder) => {
				const text = letter('A', 'Mon, 3 Feb 2020 10:00:00 +0000');
				for (const [at, before] of ['\ufeff', '\r\n\n', '\ufeff\n'].entries())
					writeFileSync(path.join(folder, `${at}.eml`), before + text);
			},
			{ read: 3, added: 3 }
		],
		[
			'so is each of a mailbox file behind a byte order mark',
			(folder) => {
				const file = mboxFile(['A', 'B'].map((subject) => letter(subject, 'Mon, 3 Feb 2020 10:00:00 +0000')));
				writeFileSync(path.join(folder, 'Crew.mbox'), `\ufeff${readFileSync(file, 'latin1')}`);
			},
			{ read: 2, added: 2, unreadable: 0 }
		],
		[
			'a message marked as deleted goes to the bin',
			(folder) => {
				for (const place of ['cur', 'new', 'tmp']) mkdirSync(path.join(folder, place));
				writeFileSync(path.join(folder, 'cur', '1:2,ST'), letter('A', 'Mon, 3 Feb 2020 10:00:00 +0000'));
				writeFileSync(path.join(folder, 'tmp', '2'), letter('B', 'Mon, 3 Feb 2020 10:00:00 +0000'));
			},
			{ read: 1, added: 1 }
		]
	])('%s', async (_name, make, expected) => {
		const context = await openOffice();
		const folder = temporaryFolder();
		make(folder);
		expect(await importMailbox(context, { path: folder, mailbox: 'Office' })).toMatchObject(expected);
	});

	it.each<[string, Buffer, string]>([
		['a tar file', tarFile(), 'is a tar file, which Kovrel does not unpack. Unpack it and import the folder'],
		['a tar file that is gzipped', gzipSync(tarFile()), 'is a tar file'],
		['a damaged zip', Buffer.from('PK\u0003\u0004 and no more'), 'cannot be read'],
		[
			'a gzip that is cut off',
			gzipSync(letter('A', 'Mon, 3 Feb 2020 10:00:00 +0000')).subarray(0, 40),
			'is damaged: it cannot be unpacked to its end'
		]
	])('%s is refused, and loses nothing', async (_name, bytes, says) => {
		const context = await openOffice();
		const file = path.join(temporaryFolder(), 'file');
		writeFileSync(file, bytes);
		await expect(importMailbox(context, { path: file, mailbox: 'Office' })).rejects.toThrow(says);
		expect(await rows(context.db, sql`SELECT * FROM item`)).toEqual([]);
	});

	it('a mailbox without mail keeps nobody waiting for threads that are not needed', async () => {
		const context = await openOffice();
		const folder = temporaryFolder();
		writeFileSync(path.join(folder, 'Drafts'), '');
		const result = await importMailbox(context, { path: folder, mailbox: 'Office', alone: true });
		expect(result).toMatchObject({ read: 0, stopped: false });
	});

	it.each([
		['notes.txt', true],
		['lines.pdf', true],
		['photo.jpg', false],
		['engine.bin', false]
	])('of an attached %s it is known at once whether it has to be looked into', async (name, waits) => {
		const context = await openOffice();
		const file = path.join(temporaryFolder(), 'one.eml');
		writeFileSync(
			file,
			`From: a@s.example\nContent-Type: application/octet-stream; name="${name}"\nContent-Disposition: attachment; filename="${name}"\n\nx\n`
		);
		await importMailbox(context, { path: file, mailbox: 'Office' });
		expect(await filesWait(context)).toBe(waits);
	});

	it('what stands before the damage of a file comes in, and the rest with the whole file', async () => {
		const context = await openOffice();
		const file = `${mboxFile(
			Array.from({ length: 400 }, (_, n) =>
				letter(`Letter ${n}`, 'Mon, 3 Feb 2020 10:00:00 +0000', randomBytes(1_500).toString('hex'))
			)
		)}.gz`;
		const whole = gzipSync(readFileSync(file.slice(0, -3)));
		writeFileSync(file, whole.subarray(0, whole.length / 2));
		const bringIn = () => importMailbox(context, { path: file, mailbox: 'Office' });
		await expect(bringIn()).rejects.toThrow('What came before the damage was imported');
		const [before] = await rows<{ n: number; threaded: number }>(
			context.db,
			sql`SELECT count(*) AS n, count(thread_id) AS threaded FROM item`
		);
		expect(before?.n).toBeGreaterThan(150);
		expect(before?.threaded).toBe(before?.n);
		writeFileSync(file, whole);
		expect(await bringIn()).toMatchObject({ read: 400, already: before?.n, added: 400 - (before?.n ?? 0) });
	});
});

it('an upload of which the server ends in the middle comes in whole after its next start', async () => {
	const context = await openOffice();
	const upload = temporaryFolder();
	const file = path.join(upload, 'mail.mbox');
	const letters = Array.from({ length: 900 }, (_, n) => letter(`Letter ${n}`, 'Mon, 3 Feb 2020 10:00:00 +0000'));
	writeFileSync(file, readFileSync(mboxFile(letters)));
	const bringIn = (signal = context.signal, report = context.report) =>
		importMailbox({ ...context, signal, report }, { path: file, mailbox: 'Office', upload });
	const ending = new AbortController();
	const first = await bringIn(ending.signal, () => ending.abort(ENDING));
	expect(first.stopped).toBe(true);
	expect(first.added).toBeLessThan(900);
	expect(existsSync(file)).toBe(true);
	expect(await bringIn()).toMatchObject({ read: 900, added: 900, already: 0, stopped: false });
	expect(existsSync(upload)).toBe(false);
});

describe('files that are read in many chunks', () => {
	const hashOf = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');
	const letters = Array.from({ length: 40 }, (_, n) =>
		letter(`Letter ${n}`, 'Mon, 3 Feb 2020 10:00:00 +0000', randomBytes(10_000 * (n % 13)).toString('base64'))
	);
	const one = letter('One', 'Mon, 3 Feb 2020 10:00:00 +0000', randomBytes(4_000_000).toString('base64'));

	it.each<[string, () => string, string[]]>([
		['a mailbox', () => mboxFile(letters), letters],
		[
			'a mailbox that is gzipped',
			() => {
				const file = mboxFile(letters);
				writeFileSync(`${file}.gz`, gzipSync(readFileSync(file)));
				return `${file}.gz`;
			},
			letters
		],
		['a mailbox in a tree, by its name', () => path.dirname(mboxFile(letters)), letters],
		[
			'a message',
			() => {
				const file = path.join(temporaryFolder(), 'one.eml');
				writeFileSync(file, one);
				return file;
			},
			[one]
		]
	])('%s comes in byte by byte', async (_name, make, expected) => {
		const context = await openOffice();
		await importMailbox(context, { path: make(), mailbox: 'Office' });
		const ids = await rows<{ id: number }>(context.db, sql`SELECT content_id AS id FROM message`);
		const stored = await Promise.all(ids.map(({ id }) => readContent(context.db, id)));
		expect(stored.map((bytes) => hashOf(bytes as Buffer)).sort()).toEqual(
			expected.map((text) => hashOf(Buffer.from(text))).sort()
		);
	});
});

/* With Python's zipfile: a message below thousands of folders, one in a Maildir of such a name, and one beside them. */
const DEEP = `
import sys, zipfile
with zipfile.ZipFile(sys.argv[1], 'w') as made:
    for name in ('a/' * 30000 + 'one.eml', 'cur/1.M1:2,S', '.a' * 15000 + '/cur/2.M1:2,S'):
        made.writestr(name, 'From: a@x.example\\nSubject: %d\\nDate: Mon, 3 Feb 2020 10:00:00 +0000\\n\\nx' % len(name))
`;

/* A zip made by Python's zipfile, of two deflated messages under some names. */
function zipOf(names: readonly string[]): Buffer {
	const code = `
import sys, zipfile
with zipfile.ZipFile(sys.argv[1], 'w', zipfile.ZIP_DEFLATED) as made:
    for n, name in enumerate(sys.argv[2:]):
        made.writestr(zipfile.ZipInfo(name), 'Subject: Ramp %d\\nDate: Mon, 3 Feb 2020 10:00:00 +0000\\n\\nIce\\n' % n, zipfile.ZIP_DEFLATED)
`;
	const file = path.join(temporaryFolder(), 'made.zip');
	const { status, stderr } = spawnSync('python3', ['-c', code, file, ...names], { encoding: 'utf8' });
	expect(status, stderr).toBe(0);
	return readFileSync(file);
}
/* The general purpose bits and the method stand in both headers of an entry (APPNOTE 4.3.7 and 4.3.12). */
function patched(zip: Buffer, at: { flags?: number; method?: number }): Buffer {
	for (const [signature, offset] of [
		['PK\u0003\u0004', 6],
		['PK\u0001\u0002', 8]
	] as const) {
		const header = zip.indexOf(signature, 0, 'latin1') + offset;
		zip.writeUInt16LE(zip.readUInt16LE(header) | (at.flags ?? 0), header);
		if (at.method !== undefined) zip.writeUInt16LE(at.method, header + 2);
	}
	return zip;
}

it('imports all of a zip whose names lead elsewhere, or are those of another system', async () => {
	const context = await openOffice();
	const file = path.join(temporaryFolder(), 'names.zip');
	writeFileSync(file, zipOf(['../../up.eml', '/Vessels/abs.eml', 'C:\\Mail\\Crew\\win.eml', 'Fees/./dot.eml', '..']));
	expect(await importMailbox(context, { path: file, mailbox: 'Office' })).toMatchObject({ read: 4, added: 4 });
	const found = await rows<{ path: string }>(
		context.db,
		sql`SELECT path FROM folder JOIN item ON item.folder_id = folder.id ORDER BY path`
	);
	expect(found.map((folder) => folder.path)).toEqual(['Fees', 'Inbox', 'Mail/Crew', 'Vessels']);
});

it.each<[which: string, at: { flags?: number; method?: number }, says: RegExp]>([
	['a password', { flags: 1 }, /^made\.zip is protected by a password, .* Unpack it and import the folder\. Nothing/],
	['strong encryption', { flags: 0x41 }, /^made\.zip is protected by a password, /],
	['another method', { method: 9 }, /^made\.zip is packed by a method that Kovrel cannot read \(number 9\)\. Unpack it/]
])('imports nothing of a zip with %s, and says what to do', async (_which, at, says) => {
	const context = await openOffice();
	const file = path.join(temporaryFolder(), 'made.zip');
	writeFileSync(file, patched(zipOf(['a.eml', 'b.eml']), at));
	await expect(importMailbox(context, { path: file, mailbox: 'Office' })).rejects.toThrow(says);
	expect(await rows(context.db, sql`SELECT * FROM item`)).toEqual([]);
});

it('imports a zip that names thousands of levels, and weighs it', async () => {
	const file = path.join(temporaryFolder(), 'deep.zip');
	const made = spawnSync('python3', ['-c', DEEP, file], { encoding: 'utf8' });
	expect(made.status, made.stderr).toBe(0);
	const context = await openOffice();
	expect(await importMailbox(context, { path: file, mailbox: 'Office' })).toMatchObject({ read: 3, added: 3 });
	const { mailbox } = await weighMailbox(context, { mailboxId: 1 });
	expect(mailbox.messages).toBe(3);
	expect(
		await rows(context.db, sql`SELECT 1 FROM folder WHERE length(path) - length(replace(path, '/', '')) > 64`)
	).toEqual([]);
});

describe('names of Maildir', () => {
	it.each([
		['.Projects.Slipway', 'Projects/Slipway'],
		['.Entw&APw-rfe', 'Entwürfe'],
		['.A &- B', 'A & B'],
		['.&U,BTFw-', '台北'],
		['.Sent', 'Sent']
	])('%s is %s and back (RFC 3501 5.1.3)', (directory, folder) => {
		expect(maildirFolderPath(directory)).toBe(folder);
		expect(maildirDirectory(folder)).toBe(directory);
	});

	it.each([
		['1234.M1.host:2,FRS', false, { seen: true, answered: true, flagged: true, draft: false }],
		['1234.M1.host;2,D', false, { seen: false, answered: false, flagged: false, draft: true }],
		['1234.M1.host', true, { seen: false, answered: false, flagged: false, draft: false }],
		['1234.M1.host:2,S', true, { seen: false, answered: false, flagged: false, draft: false }]
	])('%s', (name, inNew, flags) => {
		expect(readMaildirFlags(name, inNew)).toEqual(flags);
	});

	it('writes flags in the order of the alphabet', () => {
		expect(maildirInfo({ seen: true, answered: true, flagged: true, draft: true })).toBe(':2,DFRS');
	});
});
