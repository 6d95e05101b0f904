import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { decodeCharset, decodeTransfer } from '../../../core/message/decoding.ts';
import { scanStructure, walk } from '../../../core/message/structure.ts';
import { summarise } from '../../../core/message/summary.ts';
import { foldWord, wordsOf } from '../../../core/search/words.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { CORPORA, corpusFiles } from '../testing/corpora.ts';
import { openOffice, temporaryFolder } from '../testing/office.ts';
import { exportMail } from '../find/export-mail.ts';
import { importMailbox } from './import-mailbox.ts';
import { verify } from '../backup/verify-archive.ts';

afterAll(closeParsePool);

const sha256 = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

describe('real mail goes in and comes out byte for byte', () => {
	it.each<[keyof typeof CORPORA, number]>([
		['lists', 2_403],
		['python', 47],
		['enmime', 79]
	])('%s', async (corpus, atLeast) => {
		const context = await openOffice();
		const files = corpusFiles(corpus);
		const result = await importMailbox(context, { path: CORPORA[corpus], mailbox: 'Corpus' });
		expect(result.read).toBe(files.length);
		expect(result.read).toBeGreaterThanOrEqual(atLeast);
		expect(result.added + result.already + result.unreadable).toBe(result.read);
		const given = new Set(files.map((file) => sha256(readFileSync(file))));
		const kept = await rows<{ sha: string }>(context.db, sql`SELECT lower(hex(sha256)) AS sha FROM content`);
		// large attachments are separate contents
		const hashes = new Set(kept.map(({ sha }) => sha));
		expect([...given].filter((sha) => !hashes.has(sha))).toEqual([]);
		expect(await verify(context)).toMatchObject({ ok: true, messages: given.size, damaged: [] });

		const out = path.join(temporaryFolder(), 'out');
		const { written } = await exportMail(context, { mailbox: 'Corpus', format: 'eml', out });
		expect(written).toBe(result.added);
		const exported = readdirSync(out, { recursive: true, withFileTypes: true }).filter(
			(entry) => entry.isFile() && entry.name.endsWith('.eml')
		);
		for (const entry of exported)
			expect(given).toContain(sha256(readFileSync(path.join(entry.parentPath, entry.name))));
	});
});

interface PythonPart {
	type: string;
	/** These only for parts without parts. */
	name?: string | null;
	bytes?: number;
	sha256?: string;
	charset?: string | null;
	text?: string | null;
}

interface PythonReading {
	path: string;
	subject: string | null;
	address: string;
	to: string[] | null;
	cc: string[] | null;
	sent: number | null;
	messageId: string | null;
	parts: PythonPart[];
}

/* Read once by Python's `email`: policy `default` for the subject, `compat32` for the rest. */
const readings = Object.keys(CORPORA).flatMap((corpus) => {
	const python = spawnSync('python3', ['tests/python/read-mail.py'], {
		input: corpusFiles(corpus as keyof typeof CORPORA).join('\n'),
		maxBuffer: 2 ** 28,
		encoding: 'utf8'
	});
	if (python.status !== 0) throw new Error(python.stderr);
	return python.stdout
		.trim()
		.split('\n')
		.map((line) => JSON.parse(line) as PythonReading);
});

const flat = (text: string | null | undefined) => (text ?? '').replace(/\s+/g, ' ').trim();
const withDomain = (addresses: readonly string[]) =>
	addresses.map((address) => address.toLowerCase()).filter((address) => address.includes('@'));

/* Differences from Python, with reasons. A message listed here has to differ. */
const EXPLAINED: Record<string, Record<string, string>> = {
	subject: { 'a byte above 127 without a charset': 'Python gives U+FFFD, we read windows-1252' },
	address: { 'no domain': 'Python takes a bare word for an address, we for a name' },
	cc: { '0774.cdd7992b853cadd1098b09224e74c728.eml': 'a control character for a name' },
	structure: {
		'msg_37.txt': 'a boundary line without a header behind it: an empty part for us, none for Python',
		'mime-bad-content-type.raw': 'no media type: RFC 2045 5.2 makes it text/plain, Python keeps the words',
		'mime-blank-media-name.raw': 'the same'
	},
	bytes: {
		'msg_15.txt': 'a multipart without its boundary; a soft line break at the very end',
		'msg_42.txt': 'a multipart that was not begun: Python has its text as preamble',
		'bad-header-wrap.raw': 'base64 with other characters in it',
		'mime-bad-content-transfer-encoding.raw': 'text that only says it is base64',
		'badboundary.raw': 'an empty line before a boundary that is broken',
		'multimixed-no-closing-boundary.raw': 'a final line break that no boundary takes'
	},
	name: {
		'part-quoted-headers.golden': 'quotation marks in a name: we make them safe to save',
		'part-quoted-printable-headers.golden': 'the same',
		'mime-bad-8bit-filename.raw': 'UTF-8 in a header (RFC 6532): Python gives U+FFFD',
		'barren-content-type.raw': 'an empty name is none'
	}
};

describe("structure, attachments, addresses, dates and text agree with Python's email", () => {
	it('over all corpora', () => {
		const unexplained: unknown[] = [];
		const explained = new Set<string>();
		let compared = 0;
		for (const reading of readings) {
			const bytes = readFileSync(reading.path);
			const root = scanStructure(bytes);
			const summary = summarise(bytes, root);
			if (!summary) continue;
			const file = path.basename(reading.path);
			const compare = (what: string, theirs: unknown, ours: unknown, rule?: string) => {
				compared++;
				if (JSON.stringify(theirs) === JSON.stringify(ours)) return true;
				const key = rule ?? file;
				if (EXPLAINED[what]?.[key]) explained.add(`${what} ${key}`);
				else unexplained.push([file, what, JSON.stringify(theirs)?.slice(0, 200), JSON.stringify(ours)?.slice(0, 200)]);
				return false;
			};
			const noCharset = flat(reading.subject).includes('\ufffd') ? 'a byte above 127 without a charset' : undefined;
			compare('subject', flat(reading.subject), flat(summary.subject), noCharset);
			const noDomain = reading.address.includes('@') ? undefined : 'no domain';
			compare('address', reading.address.toLowerCase(), summary.from.address, noDomain);
			compare('sent', reading.sent, summary.sentAt ?? null);
			compare('messageId', flat(reading.messageId), flat(summary.messageId));
			for (const field of ['to', 'cc'] as const)
				compare(field, withDomain(reading[field] ?? []), withDomain(summary[field].map(({ address }) => address)));

			const parts = [...walk(root)];
			const types = (some: readonly { type: string }[]) => some.map(({ type }) => type);
			if (!compare('structure', types(reading.parts), types(parts))) continue;
			for (const [at, part] of parts.entries()) {
				const theirs = reading.parts[at] as PythonPart;
				if (theirs.sha256 === undefined || part.parts.length > 0) continue;
				compare('name', theirs.name ?? null, part.fileName ?? null);
				const data = decodeTransfer(bytes.subarray(part.bodyStart, part.end), part.encoding);
				if (!compare('bytes', [theirs.bytes, theirs.sha256], [data.length, sha256(data)])) continue;
				if (theirs.text != null) compare('text', theirs.text, decodeCharset(data, theirs.charset ?? undefined));
			}
		}
		expect(unexplained).toEqual([]);
		const reasons = Object.entries(EXPLAINED).flatMap(([what, files]) =>
			Object.keys(files).map((file) => `${what} ${file}`)
		);
		expect([...explained].sort()).toEqual(reasons.sort());
		expect(compared).toBeGreaterThan(20_000);
	});
});

/* RFC 2046 section 5.1.4: alternatives are meant to say the same; the index has the words of all of them. */
describe('every word of the HTML of real mail is found', () => {
	it('by a stripper of Python, over all corpora', () => {
		const files = (['lists', 'python', 'enmime'] as const).flatMap((corpus) => corpusFiles(corpus));
		const { status, stdout, stderr } = spawnSync('python3', ['tests/python/html-words.py'], {
			input: files.join('\n'),
			encoding: 'utf8',
			maxBuffer: 2 ** 28
		});
		expect(status, stderr).toBe(0);
		const lacking: Record<string, string[]> = {};
		let compared = 0;
		for (const [at, line] of stdout.trim().split('\n').entries()) {
			const wanted = JSON.parse(line) as string[];
			if (wanted.length === 0) continue;
			const file = files[at] as string;
			const summary = summarise(new Uint8Array(readFileSync(file)));
			if (!summary) continue;
			const known = new Set(wordsOf(`${summary.ownText}\n${summary.quotedText}`).map(foldWord));
			compared += wanted.length;
			const left = wanted.filter((word) => !known.has(word));
			if (left.length > 0) lacking[path.basename(file)] = left;
		}
		expect(lacking).toEqual({});
		expect(compared).toBeGreaterThan(1_000);
	});
});
