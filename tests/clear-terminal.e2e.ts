import { rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { expect, test } from '@playwright/test';
import { kovrel, letter, mboxFile, temporaryFolder } from './server.ts';

const OLD = 'Mon, 3 Feb 2020 10:00:00 +0000';
const NEW = 'Tue, 3 Feb 2026 10:00:00 +0000';
const folder = temporaryFolder();
const data = path.join(folder, 'data');
test.afterAll(() => rmSync(folder, { recursive: true, force: true }));
/* With the Message-ID that its subject makes. */
const known = (text: string) =>
	text.replace(
		/^(Subject: (.*))$/m,
		(_all, line: string, subject: string) => `${line}\nMessage-ID: <${subject.replace(/\W/g, '')}@x.example>`
	);

test.describe.configure({ mode: 'serial' });

type Json = Record<string, never>;
function json(...words: string[]): Json {
	const { status, stdout, stderr } = kovrel(data, ...words, '--json');
	expect(status, `${words.join(' ')}\n${stderr}`).toBe(0);
	return JSON.parse(stdout) as Json;
}
const office = ['--mailbox', 'Office'];

test('groups, threads and proposes as one JSON document each', () => {
	const answer = known(letter('Re: Ramp 0', NEW, 'Yes, it is.\n\n> Words.')).replace(
		'\n\n',
		'\nReferences: <Ramp0@x.example>\n\n'
	);
	const mail = [...Array.from({ length: 4 }, (_, n) => known(letter(`Ramp ${n}`, OLD))), letter('Quay', NEW), answer];
	json('import', mboxFile(folder, mail), ...office, '--new');
	json('import', mboxFile(folder, [letter('Quay', NEW)], 'again.mbox'), ...office, '--folder', 'Contracts');
	expect(json('lots', ...office, '--by', 'year')).toMatchObject({
		by: 'year',
		total: { lots: 2, messages: 7 },
		lots: [
			{ key: '2020', label: '2020', messages: 4, oldest: '2020-02-03', newest: '2020-02-03', unread: 0 },
			{ key: '2026', messages: 3 }
		]
	});
	expect(json('lots', '--by', 'organisation', '--where', 'subject:quay')).toMatchObject({
		total: { lots: 1, messages: 2 }
	});
	const { threads } = json('threads', ...office) as unknown as {
		threads: { messages: { messageId: string; parent: string | null; sha256: string }[] }[];
	};
	expect(threads.find(({ messages }) => messages.length === 2 && messages[1]?.parent)?.messages).toMatchObject([
		{ messageId: '<Ramp0@x.example>', parent: null },
		{ messageId: '<ReRamp0@x.example>', parent: '<Ramp0@x.example>' }
	]);
	expect(json('propose', ...office, '--items', '--draft')).toMatchObject({
		proposals: [
			{
				kind: 'same-bytes',
				messages: 1,
				docket: 1,
				items: [{ folder: 'Inbox', reason: 'also in Contracts, a folder made for it' }]
			}
		]
	});
});

test('drafts, adds, shows, carries out and takes back; --dry-run does nothing', () => {
	expect(json('docket', 'new', 'delete', ...office, '--by', 'year', '--key', '2020', '--dry-run')).toMatchObject({
		id: null,
		messages: 4
	});
	const { id } = json(
		'docket',
		'new',
		'delete',
		...office,
		'--by',
		'year',
		'--key',
		'2020',
		'--name',
		'Sweep'
	) as unknown as { id: number };
	json('docket', 'add', String(id), 'tag', '--tag', 'Ramp', '--where', 'ramp');
	json('docket', 'add', String(id), 'archive', '--where', 'subject:"ramp 3"');
	const view = json('docket', 'show', String(id));
	expect(view).toMatchObject({
		id,
		name: 'Sweep',
		state: 'drafted',
		// what is tagged is deleted or archived as well: it counts once
		messages: 5,
		conflicts: [{ wins: 3, loses: 1, messages: 1 }],
		left: [{ reason: 'outranked', messages: 1 }]
	});
	expect(json('docket', 'carry-out', String(id), '--dry-run')).toMatchObject({ state: 'drafted' });
	expect(json('docket', 'carry-out', String(id))).toMatchObject({ docket: id, messages: 5, finished: true });
	expect(json('tags', 'list')).toMatchObject({ tags: [{ name: 'Ramp', messages: 2 }] });
	expect(json('bin', 'list', ...office)).toMatchObject({ messages: 3, due: { messages: 0 } });
	expect(json('docket', 'take-back', String(id))).toMatchObject({ messages: 5, finished: true });
	expect(json('docket', 'list', ...office)).toMatchObject({
		dockets: [
			{ id, state: 'taken-back' },
			{ id: 1, state: 'drafted' }
		]
	});
});

test('rehearses whatever changes something: it says what it would do, and nothing is done', () => {
	const rehearsals: [string[], Record<string, unknown>][] = [
		[['import', mboxFile(folder, [letter('Rehearsed', NEW)], 'more.mbox'), ...office], { added: 1 }],
		[['import', mboxFile(folder, [letter('Rehearsed', NEW)], 'new.mbox'), '--mailbox', 'Nowhere'], { added: 1 }],
		[['folder', 'make', 'Rehearsed', ...office], { folder: 'Rehearsed', isNew: true }],
		[['tags', 'set', 'Ramp', '--remove'], { tags: [] }],
		[['bin', 'set', ...office, '--days', '3'], { binDays: 3 }],
		[['mailbox', 'set', 'Office', '--inbox-aim', '7', '--address', 'a@x.example'], { inboxAim: 7 }],
		[['quota', '1 MB', ...office], { quotaBytes: 1_000_000 }],
		[['archiving', ...office, '--nothing'], { archives: false }],
		[['hold', 'add', 'Claim', '--because', 'x', '--from', 'y', ...office], { name: 'Claim', messages: 7 }],
		[['docket', 'drop', '1'], { state: 'dropped' }]
	];
	const state = () => [
		json('weigh'),
		json('tags', 'list'),
		json('docket', 'list'),
		json('bin', 'list', ...office),
		json('hold', 'list'),
		json('verify')
	];
	const before = state();
	for (const [words, result] of rehearsals)
		expect(json(...words, '--dry-run'), words.join(' ')).toMatchObject({ ...result, dryRun: true });
	expect(state()).toEqual(before);
});

test('empties the bin only where that is confirmed, and leaves a certificate', () => {
	json('docket', 'carry-out', '1');
	json('bin', 'set', ...office, '--days', '10', '--confirm-above', '0');
	// what is held is not destroyed, whoever asks
	json('hold', 'add', 'Claim', '--because', 'it runs', '--from', 'Counsel', ...office);
	expect(json('bin', 'empty', ...office, '--confirm', 'office', '--dry-run')).toMatchObject({
		messages: 0,
		left: [{ reason: 'held' }]
	});
	expect(json('hold', 'release', 'claim', '--because', 'settled')).toMatchObject({ messages: 7 });
	expect(json('hold', 'list', '--released')).toMatchObject({ holds: [{ name: 'Claim', releasedBecause: 'settled' }] });
	expect(json('bin', 'empty', ...office, '--dry-run')).toMatchObject({ docket: null, messages: 1, carriedOut: false });
	const refused = kovrel(data, 'bin', 'empty', ...office);
	expect([refused.status, refused.stdout]).toEqual([2, '']);
	expect(refused.stderr).toContain('confirm it with the name of the mailbox');
	expect(json('bin', 'list', ...office)).toMatchObject({ messages: 1, items: [{ daysLeft: 10, origin: 'Inbox' }] });
	const emptied = json('bin', 'empty', ...office, '--confirm', 'office') as unknown as { docket: number };
	expect(emptied).toMatchObject({ messages: 1, certificate: 1, carriedOut: true });
	expect(json('certificate', String(emptied.docket))).toMatchObject({
		messages: 1,
		items: [{ isElsewhere: true }]
	});
	expect(json('verify')).toMatchObject({ ok: true });
});

test('keeps folders and keep-lists', () => {
	expect(json('folder', 'make', 'Papers/2020', ...office)).toMatchObject({ folder: 'Papers/2020', isNew: true });
	expect(json('folder', 'rename', 'Papers', 'Files', ...office)).toMatchObject({ folder: 'Files' });
	const { docket } = json('folder', 'per-year', 'Inbox', ...office) as unknown as { docket: number };
	expect(json('docket', 'carry-out', String(docket))).toMatchObject({ messages: 5 });
	expect(json('folder', 'remove', 'Files', ...office)).toMatchObject({ removed: ['Files', 'Files/2020'] });
	type Drafted = { id: number; docket: number; messages: number };
	const archiving = json('docket', 'new', 'archive', ...office, '--by', 'year', '--key', '2020') as unknown as Drafted;
	json('docket', 'carry-out', String(archiving.id));
	expect(json('folder', 'rename', 'Inbox/2020', 'Old', ...office, '--archive')).toMatchObject({ folder: 'Old' });
	const merging = json('folder', 'merge', 'Old', 'Closed/Old', ...office, '--archive') as unknown as Drafted;
	expect(json('docket', 'carry-out', String(merging.docket))).toMatchObject({ messages: archiving.messages });
	const list = path.join(folder, 'keep.csv');
	writeFileSync(list, 'ramp 1;case\nunheard of;case\n');
	expect(json('keep-list', list, ...office, '--decision', 'keep', '--standing')).toMatchObject({
		lines: [
			{ line: 'ramp 1', messages: 1 },
			{ line: 'unheard of', messages: 0 }
		],
		dockets: [{ messages: 1 }]
	});
});
