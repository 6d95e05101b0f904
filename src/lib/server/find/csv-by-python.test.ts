import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, expect, it } from 'vitest';
import { originalCell } from '../../../core/formats/csv-cells.ts';
import { prepareEmptying } from '../archive/bin.ts';
import { carryOut } from '../docket/carry-out.ts';
import { exportCertificate } from '../docket/certificates.ts';
import { prepareDocket } from '../docket/prepare-docket.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { setPolicy } from '../retention/policy.ts';
import { exportSchedule, importSchedule, listSchedule, saveSeries } from '../retention/schedule.ts';
import { letter, mboxFile, openOffice, temporaryFolder } from '../testing/office.ts';
import { exportMail } from './export-mail.ts';

afterAll(closeParsePool);

/* Every CSV that leaves Kovrel, read by Python's csv, as an outside reader (RFC 4180). */
function byPython(csv: string | Buffer): string[][] {
	const { status, stdout, stderr } = spawnSync('python3', ['tests/python/read-csv.py'], {
		input: csv,
		encoding: 'utf8'
	});
	expect(status, stderr).toBe(0);
	return JSON.parse(stdout) as string[][];
}

/* What somebody may write into any field. */
const HOSTILE = [
	'one\ntwo',
	'one\r\ntwo',
	'one\rtwo',
	'say "ramp"',
	'"',
	'a,b;c\td',
	'=1+1',
	'+49;=cmd()',
	'-5',
	'@sum(A1)',
	'\t=1',
	'＝1',
	'a\n=2',
	"'=1",
	'; "=3"',
	'Übergang 船 😀',
	"O'Hara"
];
const FORMULA = /(?:^|[;\t\r\n|])[ \u00a0\u3000]*"?[ ]*[=+\-@＝＋－＠]/;

function expectHarmless(cells: string[]): void {
	for (const cell of cells) expect(cell).not.toMatch(FORMULA);
}

it('the schedule: each field as it was written, and imported again as it was', async () => {
	const context = await openOffice();
	for (const [at, text] of HOSTILE.entries())
		await saveSeries(context, {
			fields: {
				...{ code: `S-${at}`, title: `T ${text}`, description: text, trigger: 'received', period: 'P1Y' },
				...{ disposition: 'destroy', archive_after: '', authority: text, owner: text }
			}
		});
	const csv = await exportSchedule(context);
	const [columns = [], ...lines] = byPython(csv);
	const column = (name: string) => lines.map((line) => line[columns.indexOf(name)] ?? '');
	const kept = await listSchedule(context);
	const written = (name: 'description' | 'authority' | 'owner' | 'title') => kept.map((series) => series[name]);
	for (const name of ['title', 'description', 'authority', 'owner'] as const) {
		expectHarmless(column(name));
		expect(column(name).map(originalCell)).toEqual(written(name));
	}
	expect(await importSchedule(context, { csv })).toMatchObject({ made: [], changed: [], same: HOSTILE.length });
});

it('the index of an export, and a certificate: each field as it stands in the message', async () => {
	const context = await openOffice();
	const encoded = (text: string) => `=?utf-8?B?${Buffer.from(text).toString('base64')}?=`;
	const mail = HOSTILE.map((text, at) =>
		letter(encoded(text), 'Mon, 3 Feb 2020 10:00:00 +0000', 'Words', `${encoded(text)} <n${at}@x.example>`)
	);
	await importMailbox(context, { path: mboxFile(mail), mailbox: 'Office', folder: '=Formulas; "odd"' });
	const out = path.join(temporaryFolder(), 'out');
	await exportMail(context, { mailbox: 'Office', format: 'eml', out });
	// a subject is one line: line breaks and control characters are blanks in it
	const flat = (text: string) => text.replace(/\s+/g, ' ').trim();
	const [columns = [], ...lines] = byPython(readFileSync(path.join(out, 'index.csv')));
	const column = (name: string, of = lines) => of.map((line) => line[columns.indexOf(name)] ?? '');
	expectHarmless(lines.flat());
	expect(column('subject').map(originalCell).map(flat).sort()).toEqual(HOSTILE.map(flat).sort());
	expect(new Set(column('folder').map(originalCell))).toEqual(new Set(['=Formulas; "odd"']));

	await setPolicy(context, { certificateKeeps: 'subject', owner: 'the board' });
	const { id: deleting } = await prepareDocket(context, {
		mailboxId: 1,
		lines: [{ decision: 'delete', options: {}, scope: { kind: 'query', query: '', label: 'all' } }]
	});
	await carryOut(context, { id: deleting });
	const { id } = await prepareEmptying(context, { mailboxId: 1, onlyDue: false });
	await carryOut(context, { id, confirm: 'Office' });
	const parts: Uint8Array[] = [];
	for await (const part of exportCertificate(context, { docketId: id, format: 'csv' })) parts.push(part);
	const [names = [], ...certified] = byPython(Buffer.concat(parts));
	expectHarmless(certified.flat());
	const subjects = certified.map((line) => originalCell(line[names.indexOf('subject')] ?? ''));
	expect(subjects.map(flat).sort()).toEqual(HOSTILE.map(flat).sort());
});
