import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { summarise } from '../../../core/message/summary.ts';
import { closeParsePool } from '../jobs/parse-pool.ts';
import { rows } from '../stores/rows.ts';
import { CORPORA, corpusFiles } from '../testing/corpora.ts';
import { openOffice, temporaryFolder } from '../testing/office.ts';
import { exportMail } from './export-mail.ts';
import { importMailbox } from './import-mailbox.ts';
import { verifyArchive } from './verify-archive.ts';

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
		const kept = await rows<{ sha: string }>(context.db, `SELECT lower(hex(sha256)) AS sha FROM content`);
		// large attachments are contents of their own beside them
		const hashes = new Set(kept.map(({ sha }) => sha));
		expect([...given].filter((sha) => !hashes.has(sha))).toEqual([]);
		expect(await verifyArchive(context)).toMatchObject({ ok: true, messages: given.size, damaged: [] });

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

interface PythonReading {
	path: string;
	subject: string | null;
	address: string;
	sent: number | null;
	messageId: string | null;
}

const flat = (text: string | null | undefined) => (text ?? '').replace(/\s+/g, ' ').trim();

/* Where Python's `email` (policy `default` for the subject, `compat32` for the rest) reads something else, and why. */
const EXPLAINED: Record<string, (python: PythonReading, ours: string) => boolean> = {
	// a byte above 127 without a charset: Python gives U+FFFD, we read windows-1252
	subject: (python, ours) => flat(python.subject).includes('\ufffd') && ours.length === flat(python.subject).length,
	// "From: foo" has no domain: Python takes it for an address, we for a name
	address: (python, ours) => !python.address.includes('@') && ours === '',
	sent: () => false,
	messageId: () => false
};

describe("subject, sender, date and Message-ID agree with Python's email", () => {
	it.each(Object.keys(CORPORA) as (keyof typeof CORPORA)[])('%s', async (corpus) => {
		const python = spawnSync('python3', ['tests/python/read-mail.py'], {
			input: corpusFiles(corpus).join('\n'),
			maxBuffer: 2 ** 28,
			encoding: 'utf8'
		});
		expect(python.status, python.stderr).toBe(0);
		const readings = python.stdout
			.trim()
			.split('\n')
			.map((line) => JSON.parse(line) as PythonReading);
		const unexplained: unknown[] = [];
		let explained = 0;
		for (const reading of readings) {
			const summary = await summarise(readFileSync(reading.path));
			if (!summary) continue;
			const pairs: [string, string | number | null, string | number | null][] = [
				['subject', flat(reading.subject), flat(summary.subject)],
				['address', reading.address.toLowerCase(), summary.from.address],
				['sent', reading.sent, summary.sentAt ?? null],
				['messageId', flat(reading.messageId), flat(summary.messageId)]
			];
			for (const [what, theirs, ours] of pairs) {
				if (theirs === ours) continue;
				if (EXPLAINED[what]?.(reading, String(ours))) explained++;
				else unexplained.push([path.basename(reading.path), what, theirs, ours]);
			}
		}
		expect(unexplained).toEqual([]);
		// an explanation that explained everything would be none
		expect(explained).toBeLessThanOrEqual(Math.max(1, readings.length / 200));
	});
});
