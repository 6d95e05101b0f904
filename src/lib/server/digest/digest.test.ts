import { spawnSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, describe, expect, it, onTestFinished } from 'vitest';
import { digestDay, digestText } from '../../../core/lists/digest.ts';
import { inflowOf } from '../../../core/lists/inflow.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { openOutside } from '../outside/outside.ts';
import { startStandIns } from '../standins/start.ts';
import { change, row, rows } from '../database/rows.ts';
import { putSetting } from '../database/settings-store.ts';
import { sql } from '../database/sql.ts';
import { letter, mboxFile, openOffice, temporaryFolder } from '../testing/office.ts';
import { listBin, setClearing } from '../archive/bin.ts';
import { carryOut, takeBack } from '../docket/carry-out.ts';
import { prepareDocket } from '../docket/prepare-docket.ts';
import type { Context } from '../context/context.ts';
import { decideLists, removeFromDigest } from '../lists/decide-lists.ts';
import { find } from '../find/find.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { makeDigests, setDigest } from './make-digests.ts';
import { letDaysPass, nightHasWork, runNight } from '../process/night.ts';
import { readMessage, readRaw } from '../find/read-message.ts';
import { restore } from '../find/restore.ts';
import { addRule } from '../rules/rules.ts';
import { runRules } from '../rules/run-rules.ts';

afterAll(closeParsePool);

const at = (context: Context, day: string): Context => ({ ...context, now: () => new Date(`${day}T12:00:00Z`) });
const day = (n: number) =>
	`${['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat'][new Date(Date.UTC(2026, 10, n)).getUTCDay()]}, ${n} Nov 2026 08:00:00 +0000`;
const issue = (list: string, n: number, text = 'Words.') =>
	letter(`${list} ${n}`, day(n), text, `${list} <news@${list}.example>`).replace(
		'\n\n',
		`\nList-Id: <${list}.example>\nContent-Type: text/plain; charset=iso-8859-1\n\n`
	);

async function office(): Promise<Context> {
	const context = await openOffice();
	await importMailbox(context, {
		path: mboxFile([
			...[23, 24, 25].flatMap((n) => [issue('tides', n, 'Hochwasser in Vesterøy.'), issue('deals', n)]),
			letter('Ramp', day(25))
		]),
		mailbox: 'Office'
	});
	return context;
}

async function fold(context: Context, ...lists: string[]): Promise<void> {
	const ids = await rows<{ id: number }>(
		context.db,
		sql`SELECT id FROM list WHERE identifier IN (SELECT value FROM json_each(${JSON.stringify(lists.map((list) => `${list}.example`))}))`
	);
	const docket = await decideLists(context, {
		mailboxId: 1,
		ids: ids.map(({ id }) => id),
		decision: 'digest',
		backIssues: 'leave'
	});
	await carryOut(context, { id: docket.id });
}

const states = async ({ db }: Context, like: string) =>
	(
		await rows<{ state: string }>(
			db,
			sql`SELECT state FROM item JOIN message ON message.id = item.message_id WHERE subject LIKE ${like} ORDER BY subject`
		)
	).map(({ state }) => state);

describe('a digest', () => {
	it.each([
		// every day: complete days only
		['day', '2026-11-24', '2026-11-26', '2026-11-25'],
		['day', '2026-11-25', '2026-11-26', undefined],
		['day', '2026-11-20', '2026-11-26', '2026-11-25'],
		['week', '2026-11-18', '2026-11-26', '2026-11-25'],
		['week', '2026-11-19', '2026-11-26', undefined]
	] as const)('every %s, the last of %s, on %s: %s', (rhythm, last, today, expected) => {
		expect(digestDay(rhythm, last, today)).toBe(expected);
	});

	it('has a summary in front that names each message, list by list', () => {
		const entry = (list: string, subject: string) => ({
			list,
			isList: true,
			subject,
			from: 'News',
			receivedOn: '2026-11-25'
		});
		expect(digestText('Office', '2026-11-25', [entry('A', 'one'), entry('A', ''), entry('B', 'three')])).toBe(
			'Digest for Office, up to 25 Nov 2026\n3 messages of 2 lists.\n\nA (2)\n  1. one – News, 25 Nov 2026\n  2. (no subject) – News, 25 Nov 2026\n\nB (1)\n  3. three – News, 25 Nov 2026\n\nThey follow in full, in this order. Each single issue is still in this mailbox, where it can be found.\n'
		);
	});

	it('holds single messages too, by hand or by a standing decision, and not what was taken out again', async () => {
		const context = await office();
		await importMailbox(context, {
			path: mboxFile([
				letter('Late ramp', day(25)),
				letter('Quay fees', day(25), 'Fees.', 'Kjell <kjell@quay.example>')
			]),
			mailbox: 'Office'
		});
		await addRule(context, { mailbox: 'Office', rule: { query: 'subject:ramp', stay: {}, then: 'fold', options: {} } });
		const [run] = (await runRules(context, {})).runs;
		await carryOut(context, { id: run?.docket ?? 0 });
		const { hits } = await find(context, { query: 'folded', limit: 5 });
		expect(hits.map(({ subject }) => subject).sort()).toEqual(['Late ramp', 'Ramp']);
		const late = hits.filter(({ subject }) => subject === 'Late ramp').map(({ id }) => id);
		const out = await prepareDocket(context, {
			mailboxId: 1,
			lines: [{ decision: 'unfold', options: {}, scope: { kind: 'items', ids: late } }]
		});
		await carryOut(context, { id: out.id });
		const next = at(context, '2026-11-27');
		expect(await makeDigests(next)).toMatchObject([{ day: '2026-11-26', messages: 1, asks: true }]);
		expect(await makeDigests(at(context, '2026-11-28'))).toEqual([]);
		const digest = (await find(next, { query: 'folder:Digests', limit: 5 })).hits;
		expect(digest).toMatchObject([{ subject: 'Digest of 1 sender, 26 Nov 2026: 1 message' }]);
	});

	it('is not held up by a message whose stored bytes are damaged', async () => {
		const context = at(await office(), '2026-11-24');
		await fold(context, 'tides', 'deals');
		await change(
			context.db,
			sql`UPDATE content SET data = zeroblob(length(data)) WHERE id = (SELECT max(content_id) FROM message WHERE list_id <> '')`
		);
		const next = at(context, '2026-11-26');
		expect(await makeDigests(next)).toMatchObject([{ messages: 4 }]);
		const { hits } = await find(next, { query: 'folder:Digests', limit: 5 });
		const raw = Buffer.from((await readRaw(next, { id: hits[0]?.id as number })).content).toString('latin1');
		expect(raw.match(/^Subject: \(damaged\)/gm)).toHaveLength(1);
	});

	it('is one message with all that lists wrote, which Python opens; its originals are archived once a person has said so', async () => {
		const context = at(await office(), '2026-11-24');
		await fold(context, 'tides', 'deals');
		const next = at(context, '2026-11-26');
		const made = await makeDigests(next);
		expect(made).toMatchObject([{ mailbox: 'Office', day: '2026-11-25', messages: 4, asks: true }]);
		expect(await makeDigests(next)).toEqual([]);
		const { hits } = await find(next, { query: 'folder:Digests', limit: 5 });
		expect(hits).toMatchObject([
			{ subject: 'Digest of 2 lists, 25 Nov 2026: 4 messages', receivedOn: '2026-11-26', dateInDoubt: 0 }
		]);
		const raw = (await readRaw(next, { id: hits[0]?.id as number })).content;
		// Python's email finds every part, equal to what was received, line breaks aside
		const python = spawnSync(
			'python3',
			[
				'-c',
				`import email, email.policy, hashlib, json, sys
m = email.message_from_bytes(sys.stdin.buffer.read(), policy=email.policy.default)
text, digest = m.get_payload()
inner = [part.get_payload(0) for part in digest.get_payload()]
print(json.dumps({'types': [m.get_content_type(), text.get_content_type(), digest.get_content_type()],
 'inner': [part.get_content_type() for part in digest.get_payload()], 'summary': text.get_content(),
 'subjects': [part['subject'] for part in inner], 'texts': [part.get_content().strip() for part in inner],
 'ids': [part['message-id'] for part in inner], 'defects': [len(p.defects) for p in m.walk()]}))`
			],
			{ input: Buffer.from(raw), encoding: 'utf8' }
		);
		expect(python.stderr).toBe('');
		const opened = JSON.parse(python.stdout) as Record<string, string[]>;
		expect(opened).toMatchObject({
			types: ['multipart/mixed', 'text/plain', 'multipart/digest'],
			inner: ['message/rfc822', 'message/rfc822', 'message/rfc822', 'message/rfc822'],
			subjects: ['deals 24', 'deals 25', 'tides 24', 'tides 25'],
			texts: ['Words.', 'Words.', 'Hochwasser in Vesterøy.', 'Hochwasser in Vesterøy.']
		});
		expect(new Set(opened.defects)).toEqual(new Set([0]));
		expect(opened.summary).toContain('3. tides 24');
		// the first one asks; the next ones run automatically
		expect(await states(next, 'tides %')).toEqual(['live', 'live', 'live']);
		await carryOut(next, { id: made[0]?.docket as number });
		expect(await states(next, 'tides %')).toEqual(['live', 'archived', 'archived']);
		await importMailbox(next, { path: mboxFile([issue('tides', 26)]), mailbox: 'Office' });
		expect(await makeDigests(at(context, '2026-11-27'))).toMatchObject([{ messages: 1, asks: false }]);
		expect(await states(next, 'tides 26')).toEqual(['archived']);
		// each leads to the other
		const message = await readMessage(next, { id: hits[0]?.id as number });
		expect(message.originals.map(({ subject, state }) => `${subject}: ${state}`)).toEqual([
			'deals 24: archived',
			'deals 25: archived',
			'tides 24: archived',
			'tides 25: archived'
		]);
		expect(await restore(next, { ids: [message.originals[3]?.id as number] })).toMatchObject({ restored: 1 });
	});

	it('that cannot be written keeps nothing else from being done in the night, the backup least of all', async () => {
		const context = at(await office(), '2026-11-24');
		await fold(context, 'tides');
		await importMailbox(context, { path: mboxFile([letter('Gale', day(25))]), mailbox: 'Pier' });
		for (const mailbox of ['Office', 'Pier'])
			await addRule(context, {
				mailbox,
				rule: { query: 'from:somebody or subject:gale', stay: {}, then: 'archive', options: {} }
			});
		await putSetting(context.db, 'backup-folder', temporaryFolder());
		// a file where its folder would be
		writeFileSync(path.join(context.dataFolder, 'digests'), '');
		const followed: string[] = [];
		const follow: Context['follow'] = async (_db, { useCase }) => void followed.push(useCase);
		await expect(runNight({ ...at(context, '2026-11-26'), follow })).rejects.toThrow(
			/^Scheduled work: Digests: .* The rest was done\.$/
		);
		expect(await rows(context.db, sql`SELECT name, state FROM docket ORDER BY id DESC LIMIT 1`)).toEqual([
			{ name: 'Standing decisions', state: 'drafted' }
		]);
		expect(followed).toEqual(['backUp']);
	});

	it('that is made again after it was cut off is the same bytes, and not there twice', async () => {
		const context = at(await office(), '2026-11-24');
		await fold(context, 'tides');
		const next = at(context, '2026-11-26');
		await makeDigests(next);
		const sha = () => rows<{ sha: string }>(context.db, sql`SELECT hex(sha256) AS sha FROM content ORDER BY id`);
		const before = await sha();
		// as if interrupted after the import
		await context.db.raw(`DELETE FROM digest_item`);
		await context.db.raw(`DELETE FROM digest`);
		await makeDigests(next);
		expect(await sha()).toEqual(before);
		expect((await find(next, { query: 'folder:Digests', limit: 5 })).hits).toHaveLength(1);
	});

	it('leaves what is flagged or kept, and lists that were taken out again', async () => {
		const context = at(await office(), '2026-11-24');
		await fold(context, 'tides', 'deals');
		await context.db.raw(
			`UPDATE item SET flagged = 1 WHERE id IN (SELECT item.id FROM item JOIN message ON message.id = item.message_id WHERE subject = 'tides 25')`
		);
		const deals = await row<{ id: number }>(context.db, sql`SELECT id FROM list WHERE identifier = 'deals.example'`);
		await removeFromDigest(context, { mailboxId: 1, ids: [deals?.id as number] });
		await expect(removeFromDigest(context, { mailboxId: 1, ids: [deals?.id as number] })).rejects.toThrow(
			'None of these'
		);
		expect(await makeDigests(at(context, '2026-11-26'))).toMatchObject([{ messages: 1 }]);
	});

	it('goes where and when it is set to; taken back, the lists are out of it', async () => {
		const context = at(await office(), '2026-11-24');
		await setDigest(context, { mailbox: 'Office', every: 'week', folder: 'Gazettes/Weekly' });
		await fold(context, 'tides');
		expect(await makeDigests(at(context, '2026-11-27'))).toEqual([]);
		expect(await makeDigests(at(context, '2026-12-01'))).toMatchObject([{ day: '2026-11-30', messages: 2 }]);
		expect((await find(context, { query: 'folder:Gazettes', limit: 5 })).hits).toHaveLength(1);
		await takeBack(context, { id: 1 });
		expect(await rows(context.db, sql`SELECT * FROM digest_list`)).toEqual([]);
		await expect(setDigest(context, { mailbox: 'Office', folder: ' ' })).rejects.toThrow('Name the folder');
	});
});

describe('what lists write, week by week', () => {
	it('is told by lists that were left and others; before and since', () => {
		const days = [
			{ listId: 1, day: '2026-10-01', messages: 8 },
			{ listId: 1, day: '2026-10-20', messages: 5 },
			{ listId: 1, day: '2026-11-10', messages: 2 },
			{ listId: 2, day: '2026-11-11', messages: 3 },
			// long before it was unsubscribed from
			{ listId: 1, day: '2026-01-01', messages: 99 }
		];
		const { weeks, before, since, lists } = inflowOf(
			days,
			[
				{ listId: 1, on: '2026-10-20' },
				{ listId: 3, on: '2026-11-14' }
			],
			'2026-11-15',
			5
		);
		expect(weeks).toEqual([
			{ from: '2026-10-12', left: 0, others: 0 },
			{ from: '2026-10-19', left: 5, others: 0 },
			{ from: '2026-10-26', left: 0, others: 0 },
			{ from: '2026-11-02', left: 0, others: 0 },
			{ from: '2026-11-09', left: 2, others: 3 }
		]);
		expect([lists, before, since]).toEqual([2, 1, (7 * 2) / 26]);
	});
});

describe('junk', () => {
	it('goes to the bin after its days where that is switched on; the first time a person is asked', async () => {
		const context = await openOffice();
		await importMailbox(context, {
			path: mboxFile([letter('Old', day(1)), letter('New', day(24))]),
			mailbox: 'Office',
			folder: 'Junk'
		});
		expect(await nightHasWork(context)).toBe(false);
		await setClearing(context, { mailbox: 'Office', clearsJunk: true, junkDays: 14 });
		expect(await nightHasWork(context)).toBe(true);
		expect((await runNight(context)).junk).toMatchObject([{ messages: 1, asks: true }]);
		expect((await runNight(context)).junk).toEqual([]);
		expect((await listBin(context, { mailboxId: 1, limit: 5 })).messages).toBe(0);
		await carryOut(context, { id: 1 });
		expect((await runNight(at(context, '2026-12-20'))).junk).toMatchObject([{ messages: 1, asks: false }]);
		expect((await listBin(context, { mailboxId: 1, limit: 5 })).messages).toBe(2);
	});
});

describe('days that pass in the demo', () => {
	it('bring the post of each day, honouring who has left what; elsewhere they pass by themselves', async () => {
		const context = await office();
		await expect(letDaysPass(context, { days: 1 })).rejects.toThrow('pass by themselves');
		const world = await startStandIns(temporaryFolder(), {
			manners: new Map([['tides.example', 'obeys']]),
			post: (hasLeft) => (of) =>
				hasLeft('tides.example', 'office@skerryline.example')
					? []
					: [
							{
								mailbox: 'Office',
								path: 'Inbox',
								mbox: Buffer.from(`From a@b.example Thu Jan  1 00:00:00 1970\n${issue('tides', Number(of.slice(8)))}\n`)
							}
						]
		});
		onTestFinished(() => world.close());
		let now = '2026-11-25';
		const inDemo: Context = {
			...context,
			outside: openOutside({ standIns: world.where }),
			now: () => new Date(`${now}T12:00:00Z`),
			readClock: async () => {
				const days = await row<{ value: string }>(
					context.db,
					sql`SELECT value FROM setting WHERE key = 'clock-ahead-days'`
				);
				now = `2026-11-${25 + Number(days?.value ?? 0)}`;
			}
		};
		expect(await letDaysPass(inDemo, { days: 2 })).toMatchObject({ delivered: 2, today: '2026-11-27' });
		expect(await nightHasWork(inDemo)).toBe(false);
		world.subscriptions.leave('tides.example', 'office@skerryline.example');
		expect(await letDaysPass(inDemo, { days: 1 })).toMatchObject({ delivered: 0 });
	});
});
