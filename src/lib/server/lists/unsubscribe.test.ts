import { spawnSync } from 'node:child_process';
import path from 'node:path';
import { afterAll, describe, expect, it, onTestFinished } from 'vitest';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { openOutside } from '../outside/outside.ts';
import type { ListManner } from '../standins/list-operator.ts';
import { type RunningStandIns, startStandIns } from '../standins/start.ts';
import { inTransaction } from '../database/open.ts';
import { change, row, rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { compareWeights } from '../mail/weights-store.ts';
import { recountWeights } from '../mail/weights-store.ts';
import { letter, mboxFile, openOffice, temporaryFolder } from '../testing/office.ts';
import { setClearing } from '../archive/bin.ts';
import { carryOut, takeBack } from '../docket/carry-out.ts';
import type { Context } from '../context/context.ts';
import { type BackIssues, decideLists, listsLines, prepareLists } from './decide-lists.ts';
import { find } from '../find/find.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { listInflow } from './inflow.ts';
import { leaveLists, unsubscribedByHand } from './unsubscribe-lists.ts';
import { listLists, requireList } from './lists.ts';
import { showList } from './list-ways.ts';
import { runNight } from '../process/night.ts';
import { prepareDocket } from '../docket/prepare-docket.ts';
import { readLedger } from '../ledger/read-ledger.ts';
import { rereadMail } from '../mail/reread-mail.ts';
import { listSenders, markSender, trustLists, tryBlocking } from './senders.ts';

afterAll(closeParsePool);

const OWN = 'office@skerryline.example';
const signed = (domain: string) =>
	`DKIM-Signature: v=1; a=rsa-sha256; d=${domain}; s=k; h=from:list-unsubscribe:list-unsubscribe-post; bh=a; b=c`;

/* An issue of a list, with its header. */
function issue(list: string, date: string, fields: string[], from = `News <news@${list}>`): string {
	return letter(`Issue of ${list} ${date}`, date, 'Words of the week.', from).replace(
		'\n\n',
		`\nList-Id: <${list}>\n${fields.join('\n')}\n\n`
	);
}
const clicks = (list: string) => [
	`List-Unsubscribe: <mailto:leave@${list}?subject=leave>, <https://${list}/leave/${Buffer.from(OWN).toString('base64url')}>`,
	'List-Unsubscribe-Post: List-Unsubscribe=One-Click',
	signed(list)
];
const mails = (list: string) => [`List-Unsubscribe: <mailto:leave@${list}?subject=off&body=please>`];
const links = (list: string) => [`List-Unsubscribe: <https://${list}/leave/x>`];

const MANNERS: Record<string, ListManner> = {
	'obeys.example': 'obeys',
	'fails.example': 'fails',
	'redirects.example': 'redirects',
	'mails.example': 'obeys'
};
const MONDAYS = ['Mon, 05 Oct 2026', 'Mon, 12 Oct 2026', 'Mon, 19 Oct 2026', 'Mon, 16 Nov 2026'].map(
	(day) => `${day} 08:00:00 +0000`
);

async function office(): Promise<{ context: Context; world: RunningStandIns }> {
	const world = await startStandIns(temporaryFolder(), {
		manners: new Map(Object.entries(MANNERS)),
		post: () => () => []
	});
	onTestFinished(() => world.close());
	const context: Context = { ...(await openOffice()), outside: openOutside({ standIns: world.where }) };
	const mail = MONDAYS.flatMap((date) => [
		issue('obeys.example', date, clicks('obeys.example')),
		issue('fails.example', date, clicks('fails.example')),
		issue('redirects.example', date, clicks('redirects.example')),
		issue('mails.example', date, mails('mails.example'), `Numbers <n${date.slice(5, 7)}@mails.example>`),
		issue('links.example', date, links('links.example'))
	]);
	await importMailbox(context, {
		path: mboxFile([...mail, letter('Ramp', MONDAYS[0] as string)], 'Status: O\n'),
		mailbox: 'Office'
	});
	const sent = letter('Hello', MONDAYS[0] as string, 'Words.', `Office <${OWN}>`).replace(
		/^To: .*$/m,
		'To: editor@obeys.example'
	);
	await importMailbox(context, { path: mboxFile([sent]), mailbox: 'Office', folder: 'Sent' });
	await setClearing(context, { mailbox: 'Office', addresses: [OWN] });
	return { context, world };
}

const later = (context: Context, days: number): Context => ({
	...context,
	now: () => new Date(Date.parse('2026-11-25T12:00:00Z') + days * 86_400_000)
});
const idOf = async (context: Context, identifier: string) =>
	(await row<{ id: number }>(context.db, sql`SELECT id FROM list WHERE identifier = ${identifier}`))?.id as number;
const idsOf = (context: Context, ...identifiers: string[]) =>
	Promise.all(identifiers.map((identifier) => idOf(context, identifier)));

async function unsubscribe(context: Context, ids: number[], backIssues: BackIssues = 'leave') {
	const docket = await decideLists(context, { mailboxId: 1, ids, decision: 'unsubscribe', backIssues, keepNewest: 1 });
	const outcome = await carryOut(context, { id: docket.id });
	return { docket, outcome, asked: await leaveLists(context, {}) };
}

describe('the lists of a mailbox', () => {
	it('are found with all that is shown of them', async () => {
		const { context } = await office();
		const { lists, total } = await listLists(context, { mailboxId: 1, limit: 50 });
		expect(total).toMatchObject({ lists: 5, messages: 20 });
		expect(lists.find(({ identifier }) => identifier === 'mails.example')).toMatchObject({
			messages: 4,
			live: 4,
			addresses: 4,
			read: 0,
			readKnown: 4,
			first: '2026-10-05',
			last: '2026-11-16',
			months: [0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 3, 1],
			ways: ['mail'],
			known: false,
			mailboxes: ['Office'],
			standing: 'subscribed'
		});
		// somebody here has written to its editor
		expect(lists.filter(({ known }) => known).map(({ identifier }) => identifier)).toEqual(['obeys.example']);
		const newest = await listLists(context, { mailboxId: 1, newest: 3, limit: 50 });
		expect(newest.lists.map(({ inNewest }) => inNewest)).toEqual([1, 1, 1]);
		// what the mailbox sent is no mail that it received
		const sent = ['Wed, 18 Nov 2026', 'Thu, 19 Nov 2026', 'Fri, 20 Nov 2026'].map((day, n) =>
			letter(`Sent ${n}`, `${day} 08:00:00 +0000`, 'Words.', `Office <${OWN}>`)
		);
		await importMailbox(context, { path: mboxFile(sent), mailbox: 'Office', folder: 'Sent' });
		expect((await listLists(context, { mailboxId: 1, newest: 3, limit: 50 })).total.lists).toBe(3);
		expect((await listLists(context, { mailboxId: 1, text: 'OBEYS', limit: 50 })).total.lists).toBe(1);
		expect((await listLists(context, { mailboxId: 1, show: 'strangers', limit: 2, offset: 2 })).lists).toHaveLength(2);
	});

	it('say why one request is not enough, and what is advised', async () => {
		const { context } = await office();
		const show = async (identifier: string) =>
			showList(context, { mailboxId: 1, listId: await idOf(context, identifier) });
		expect(await show('obeys.example')).toMatchObject({
			noClick: undefined,
			advice: expect.stringContaining('safe') as string
		});
		expect(await show('links.example')).toMatchObject({
			noClick: 'the sender does not offer it',
			ways: [{ kind: 'link', url: 'https://links.example/leave/x' }],
			advice: expect.stringContaining('stranger') as string
		});
	});
});

describe('mail that an earlier Kovrel has read', () => {
	it('has its lists found when it is read again', async () => {
		const { context } = await office();
		const before = (await listLists(context, { mailboxId: 1, limit: 50 })).lists;
		await inTransaction(context.db, async (db) => {
			await change(db, sql`UPDATE message SET reading = 1, list_id = '', leave_ways = 0`);
			await change(db, sql`UPDATE item SET list_id = NULL`);
			await recountWeights(db);
		});
		expect((await listLists(context, { mailboxId: 1, limit: 50 })).total.lists).toBe(0);
		expect(await rereadMail(context)).toMatchObject({ messages: 22, finished: true });
		expect((await listLists(context, { mailboxId: 1, limit: 50 })).lists).toEqual(before);
		expect(await compareWeights(context.db)).toBe(0);
	});
});

/* Recipients and subjects of the sent mail. */
function mailsTaken({ taker }: RunningStandIns): string[] {
	return taker.numbers().map((number) => {
		const text = taker.read(number)?.toString() ?? '';
		return `${/^To: (.*)$/m.exec(text)?.[1]?.trim()} ${/^Subject: (.*)$/m.exec(text)?.[1]?.trim()}`;
	});
}

describe('what a newsletter would have us write (invariant 19)', () => {
	it('goes to no colleague, and to nobody what was not shown', async () => {
		const { context, world } = await office();
		const forms = (n: number) =>
			[
				`maren@skerryline.example?subject=The%20master%20is%20sacked&body=By%20order`,
				`maren%25skerryline.example@h${n}.example`,
				`leave@localhost?subject=leave`,
				`leave@h${n}.example?body=${'word%20'.repeat(40)}`,
				`claims@third.example?subject=Pay%20at%20once`,
				`leave@h${n}.example?subject=leave`
			][n % 6] as string;
		const names = Array.from({ length: 300 }, (_, n) => `h${n}.example`);
		await importMailbox(context, {
			path: mboxFile(
				names.map((list, n) => issue(list, MONDAYS[3] as string, [`List-Unsubscribe: <mailto:${forms(n)}>`]))
			),
			mailbox: 'Office'
		});
		const { docket } = await unsubscribe(context, await idsOf(context, ...names));
		const asks = docket.lines[0]?.options.asks ?? [];
		expect(asks).toHaveLength(100);
		expect(docket.sentences[0]).toContain('200 can only be left by opening a link, by hand');
		const said = new Set(asks.map(({ to, subject, text }) => `${to.replace(/h\d+/, 'h')}: ${subject}, ${text}`));
		expect(said).toEqual(new Set(['claims@third.example: unsubscribe, unsubscribe', 'leave@h.example: leave, ']));
		const heard = mailsTaken(world).sort();
		expect(heard).toEqual(asks.map(({ to, subject }) => `${to} ${subject}`).sort());
	});

	it('is not sent where a newer message says something else than what was shown', async () => {
		const { context, world } = await office();
		const ids = await idsOf(context, 'mails.example');
		const docket = await decideLists(context, { mailboxId: 1, ids, decision: 'unsubscribe', backIssues: 'leave' });
		await importMailbox(context, {
			path: mboxFile([
				issue(
					'mails.example',
					'Mon, 23 Nov 2026 08:00:00 +0000',
					['List-Unsubscribe: <mailto:other@mails.example>'],
					'Numbers <n11@mails.example>'
				)
			]),
			mailbox: 'Office'
		});
		await carryOut(context, { id: docket.id });
		await leaveLists(context, {});
		expect(mailsTaken(world)).toEqual([]);
	});
});

describe('leaving', () => {
	it('asks each list once, by the best of its ways, and writes down what was answered', async () => {
		const { context, world } = await office();
		const names = ['obeys.example', 'fails.example', 'redirects.example', 'mails.example', 'links.example'];
		const ids = await idsOf(context, ...names);
		const { docket, outcome, asked } = await unsubscribe(context, ids);
		expect(docket.sentences[0]).toContain('Unsubscribe from 5 lists');
		expect(docket.sentences[0]).toContain('1 can only be left by opening a link, by hand');
		expect(outcome).toMatchObject({ messages: 0, finished: true, toAsk: 4 });
		expect(asked).toEqual({ confirmed: 1, asked: 1, failed: 2, unknown: 0, waiting: 0 });
		expect(world.operator.asked.map(({ method, host, body, cookies }) => [method, host, body, cookies]).sort()).toEqual(
			['fails.example', 'obeys.example', 'redirects.example'].map((host) => [
				'POST',
				host,
				'List-Unsubscribe=One-Click',
				false
			])
		);
		const standings = async () => Promise.all(ids.map(async (id) => (await requireList(context, 1, id)).standing));
		expect(await standings()).toEqual(['confirmed', 'failed', 'failed', 'asked', 'by-hand']);
		const lines = await readLedger(context, { limit: 50 });
		const said = lines
			.filter(({ action }) => action === 'list-asked')
			.map(({ details }) => [details.list, details.state, details.answer]);
		expect(said.sort()).toMatchObject([
			['fails.example', 'failed', 'answered 500'],
			['mails.example', 'asked', expect.stringContaining('mail taken')],
			['obeys.example', 'confirmed', 'answered 200'],
			['redirects.example', 'failed', expect.stringContaining('redirect')]
		]);
		// with its back issues archived, a list that was just asked is still on the sheet of the newest messages
		const backIssues = await prepareDocket(context, {
			mailboxId: 1,
			lines: [
				{
					decision: 'archive',
					options: {},
					scope: { kind: 'query', query: 'list:"=mails.example"', label: 'of a list' }
				}
			]
		});
		await carryOut(context, { id: backIssues.id });
		const inSight = (await listLists(context, { mailboxId: 1, newest: 2, limit: 50 })).lists.map((list) => list.name);
		expect(inSight).toContain('mails.example');
		const afterGrace = await listLists(later(context, 11), { mailboxId: 1, newest: 2, limit: 50 });
		expect(afterGrace.lists.map((list) => list.name)).not.toContain('mails.example');
		// a second round sends nothing
		expect(await leaveLists(context, {})).toMatchObject({ confirmed: 0, asked: 0, failed: 0 });
		expect(world.operator.asked).toHaveLength(3);
		await expect(unsubscribe(context, [ids[0] as number])).rejects.toThrow('asked to stop already');
		await unsubscribedByHand(context, { mailboxId: 1, listId: ids[4] as number });
		expect((await standings())[4]).toBe('asked');
		await expect(unsubscribedByHand(context, { mailboxId: 1, listId: ids[4] as number })).rejects.toThrow(
			'does not wait'
		);
	});

	it('asks nobody twice, though two dockets and two lines were drafted before anybody was asked', async () => {
		const { context, world } = await office();
		const [obeys, mails] = await idsOf(context, 'obeys.example', 'mails.example');
		const draft = (ids: number[]) =>
			prepareLists(context, { mailboxId: 1, ids, decision: 'unsubscribe', backIssues: 'leave' });
		const dockets = [await draft([obeys as number]), await draft([obeys as number, mails as number])];
		const lines = await listsLines(context, {
			mailboxId: 1,
			ids: [obeys as number],
			decision: 'unsubscribe',
			backIssues: 'leave'
		});
		dockets.push(await prepareDocket(context, { mailboxId: 1, lines: [...lines, ...lines] }));
		for (const { id } of dockets) {
			await carryOut(context, { id });
			await leaveLists(context, {});
		}
		expect(world.operator.asked.map(({ host }) => host)).toEqual(['obeys.example']);
		expect(world.taker.numbers()).toHaveLength(1);
		expect((await showList(context, { mailboxId: 1, listId: obeys as number })).attempts).toHaveLength(1);
		// it only sent a request: there is nothing to take back
		await expect(takeBack(context, { id: dockets[0]?.id as number })).rejects.toThrow('cannot be taken back');
	});

	it('waits for a person where it was stopped: no night asks', async () => {
		const { context, world } = await office();
		const [id] = await idsOf(context, 'obeys.example');
		const docket = await prepareLists(context, {
			mailboxId: 1,
			ids: [id as number],
			decision: 'unsubscribe',
			backIssues: 'leave'
		});
		await carryOut(context, { id: docket.id });
		expect(await leaveLists({ ...context, signal: AbortSignal.abort() }, {})).toMatchObject({ waiting: 1 });
		await runNight(context);
		// another docket sends only its own
		const other = await prepareLists(context, {
			mailboxId: 1,
			ids: await idsOf(context, 'mails.example'),
			decision: 'unsubscribe',
			backIssues: 'leave'
		});
		expect(await carryOut(context, { id: other.id })).toMatchObject({ toAsk: 1 });
		expect(await leaveLists(context, { docketId: other.id })).toMatchObject({ asked: 1, waiting: 0 });
		expect(world.operator.asked).toEqual([]);
		expect(await listLists(context, { mailboxId: 1, limit: 5 })).toMatchObject({ waiting: 1 });
		expect(await leaveLists(context, {})).toMatchObject({ confirmed: 1, waiting: 0 });
		expect(await listLists(context, { mailboxId: 1, limit: 5 })).toMatchObject({ waiting: 0 });
	});

	it('writes the mail as the list asks for it; Python reads it so', async () => {
		const { context, world } = await office();
		await unsubscribe(context, await idsOf(context, 'mails.example'));
		const bytes = world.taker.read(1) as Buffer;
		// Python's email, policy default
		const python = spawnSync(
			'python3',
			[
				'-c',
				`import email, email.policy, json, sys
m = email.message_from_bytes(sys.stdin.buffer.read(), policy=email.policy.default)
print(json.dumps([m['from'], m['to'], m['subject'], m.get_content().strip(), m['cc'], m.get_content_type()]))`
			],
			{ input: bytes, encoding: 'utf8' }
		);
		expect(JSON.parse(python.stdout)).toEqual([OWN, 'leave@mails.example', 'off', 'please', null, 'text/plain']);
		expect(world.subscriptions.hasLeft('mails.example', OWN)).toBe(true);
	});

	it('takes the next way where one failed, and none twice', async () => {
		const { context, world } = await office();
		const ids = await idsOf(context, 'fails.example');
		expect((await unsubscribe(context, ids)).asked).toMatchObject({ failed: 1 });
		expect((await unsubscribe(context, ids)).asked).toMatchObject({ asked: 1 });
		expect(world.operator.asked).toHaveLength(1);
		expect(world.taker.numbers()).toHaveLength(1);
	});

	it('says who still writes after the days of grace, and who is silent', async () => {
		const { context } = await office();
		await unsubscribe(context, await idsOf(context, 'obeys.example', 'mails.example'));
		const late = letter('Late', 'Sun, 06 Dec 2026 08:00:00 +0000', 'Words.', 'News <news@mails.example>');
		await importMailbox(later(context, 12), {
			path: mboxFile([late.replace('\n\n', '\nList-Id: <mails.example>\n\n')]),
			mailbox: 'Office'
		});
		const { lists, stillWriting } = await listLists(later(context, 12), { mailboxId: 1, limit: 50 });
		const standing = new Map(lists.map(({ identifier, standing }) => [identifier, standing]));
		expect([standing.get('obeys.example'), standing.get('mails.example'), stillWriting]).toEqual([
			'silent',
			'still-writing',
			1
		]);
		expect(await listInflow(later(context, 12), { mailboxId: 1 })).toMatchObject({
			lists: 2,
			// four issues each in the eight weeks before, and one since in twelve days
			before: 1,
			since: 7 / 12
		});
	});

	it('is not tried again where it was cut off: nobody knows whether it was heard', async () => {
		const { context, world } = await office();
		const docket = await decideLists(context, {
			mailboxId: 1,
			ids: await idsOf(context, 'obeys.example'),
			decision: 'unsubscribe',
			backIssues: 'leave'
		});
		await carryOut(context, { id: docket.id });
		// the state left by a process killed while sending
		await change(context.db, sql`UPDATE leaving SET state = 'sending', sender = 4194303`);
		expect(await leaveLists(context, {})).toMatchObject({ unknown: 1, confirmed: 0 });
		expect(world.operator.asked).toEqual([]);
		expect(await requireList(context, 1, await idOf(context, 'obeys.example'))).toMatchObject({ standing: 'unknown' });
	});

	it.each<[BackIssues, Record<string, number>]>([
		['archive', { archived: 4 }],
		['delete', { binned: 4 }],
		['keep-newest', { live: 1, binned: 3 }]
	])('decides on the back issues in the same docket: %s', async (backIssues, states) => {
		const { context } = await office();
		const [id] = await idsOf(context, 'obeys.example');
		const { docket } = await unsubscribe(context, [id as number], backIssues);
		const counts = async () =>
			Object.fromEntries(
				(
					await rows<{ state: string; n: number }>(
						context.db,
						sql`SELECT state, count(*) AS n FROM item WHERE list_id = ${id ?? 0} GROUP BY 1`
					)
				).map(({ state, n }) => [state, n])
			);
		expect(await counts()).toEqual(states);
		// taking it back restores the mail; the request stays sent
		await takeBack(context, { id: docket.id });
		expect(await counts()).toEqual({ live: 4 });
		expect(await requireList(context, 1, id as number)).toMatchObject({ standing: 'confirmed' });
		expect(await compareWeights(context.db)).toBe(0);
	});

	it('that is taken back before anybody was asked asks nobody', async () => {
		const { context, world } = await office();
		const docket = await decideLists(context, {
			mailboxId: 1,
			ids: await idsOf(context, 'obeys.example', 'links.example'),
			decision: 'unsubscribe',
			backIssues: 'leave'
		});
		await carryOut(context, { id: docket.id });
		await takeBack(context, { id: docket.id });
		expect(await leaveLists(context, {})).toMatchObject({ confirmed: 0 });
		expect(world.operator.asked).toEqual([]);
	});
});

describe('blocking and trusting', () => {
	const inJunk = async (context: Context) => (await find(context, { query: 'folder:Junk', limit: 50 })).hits.length;

	it('puts back issues into junk, and mail to come; taken back, both end', async () => {
		const { context } = await office();
		const [id] = await idsOf(context, 'links.example');
		const docket = await decideLists(context, {
			mailboxId: 1,
			ids: [id as number],
			decision: 'block',
			backIssues: 'junk'
		});
		expect(docket.sentences).toMatchObject([
			expect.stringContaining('Block 1 list: links.example'),
			expect.stringContaining('Move 4 messages'),
			expect.stringContaining('$Junk')
		]);
		await carryOut(context, { id: docket.id });
		expect(await inJunk(context)).toBe(4);
		const more = (n: number) =>
			importMailbox(context, {
				path: mboxFile([issue('links.example', `Tue, ${n} Nov 2026 08:00:00 +0000`, [])]),
				mailbox: 'Office'
			});
		await more(17);
		expect(await inJunk(context)).toBe(5);
		expect((await find(context, { query: 'tag:$Junk', limit: 50 })).hits).toHaveLength(5);
		await takeBack(context, { id: docket.id });
		expect(await listSenders(context)).toEqual([]);
		await more(18);
		expect(await inJunk(context)).toBe(1);
	});

	it('trusts several lists at once, or none of them', async () => {
		const { context } = await office();
		const ids = await idsOf(context, 'obeys.example', 'mails.example');
		await expect(trustLists(context, { mailboxId: 1, ids: [...ids, 999] })).rejects.toThrow('no such list');
		expect(await listSenders(context)).toEqual([]);
		await trustLists(context, { mailboxId: 1, ids });
		expect((await listSenders(context)).map(({ value, verdict }) => [value, verdict]).sort()).toEqual([
			['mails.example', 'trust'],
			['obeys.example', 'trust']
		]);
		expect((await readLedger(context, { limit: 9 })).filter(({ action }) => action === 'sender-marked')).toHaveLength(
			2
		);
	});

	it('says what blocking touches before it is done, and blocks nothing of the office unless it is typed', async () => {
		const context = await openOffice();
		const from = (address: string, n: number, date: string) =>
			letter(`Mail ${n}`, date, 'Words.', address).replace('To: office@', 'To: ylva@');
		const recent = 'Mon, 02 Mar 2026 10:00:00 +0000';
		const senders = ['a@lucky.test', 'b@win.lucky.test', 'c@notlucky.test', 'd@other.test', 'tove@skerryline.example'];
		await importMailbox(context, {
			path: mboxFile([
				...senders.flatMap((address, at) => [0, 1].map((n) => from(address, at * 2 + n, recent))),
				from('a@lucky.test', 90, 'Mon, 03 Mar 2025 10:00:00 +0000')
			]),
			mailbox: 'Office'
		});
		await setClearing(context, { mailbox: 'Office', addresses: ['ylva@skerryline.example'] });
		// worked by hand: the last twelve months alone, a domain with its subdomains
		const counts: [string, number, number, string | undefined][] = [
			['a@lucky.test', 1, 2, undefined],
			['lucky.test', 2, 4, undefined],
			['.test', 4, 8, undefined],
			['nobody.test', 0, 0, undefined],
			['skerryline.example', 1, 2, 'skerryline.example'],
			['tove@skerryline.example', 1, 2, 'tove@skerryline.example'],
			['mail.skerryline.example', 0, 0, 'mail.skerryline.example'],
			['.example', 1, 2, 'example']
		];
		for (const [sender, from, messages, confirm] of counts) {
			expect(await tryBlocking(context, { sender })).toMatchObject({ senders: from, messages, confirm });
			if (confirm === undefined) continue;
			const blocked = markSender(context, { sender, verdict: 'block', confirm: 'yes' });
			await expect(blocked).rejects.toThrow(`To block them, type ${confirm}. Nothing was changed.`);
		}
		expect(await listSenders(context)).toEqual([]);
		await markSender(context, { sender: 'skerryline.example', verdict: 'trust' });
		const typed = { sender: 'skerryline.example', verdict: 'block' as const, confirm: ' Skerryline.EXAMPLE ' };
		expect(await markSender(context, typed)).toEqual({ before: 'trust' });
		// taken back: it is what it was
		await markSender(context, { sender: 'skerryline.example', verdict: 'trust' });
		expect((await listSenders(context)).map(({ verdict }) => verdict)).toEqual(['trust']);
	});

	it('of a narrower mark wins over a wider one', async () => {
		const { context } = await office();
		await markSender(context, { sender: '.example', verdict: 'block', confirm: 'example' });
		await markSender(context, { sender: 'obeys.example', verdict: 'trust' });
		await importMailbox(context, {
			path: mboxFile(
				['obeys.example', 'other.example'].map((list) => issue(list, 'Tue, 17 Nov 2026 08:00:00 +0000', []))
			),
			mailbox: 'Office'
		});
		expect(await inJunk(context)).toBe(1);
		expect(await requireList(context, 1, await idOf(context, 'obeys.example'))).toMatchObject({
			verdict: 'trust',
			verdictSentence: expect.stringContaining('narrower than all addresses under .example') as string
		});
		await markSender(context, { sender: '.example', verdict: undefined });
		await expect(markSender(context, { sender: '.example', verdict: undefined })).rejects.toThrow(
			'neither trusted nor blocked'
		);
		await expect(markSender(context, { sender: 'two words', verdict: 'block' })).rejects.toThrow('neither an address');
	});
});

describe('the lists of real mail', () => {
	it('are those that Python reads off its List-Id fields', async () => {
		const { summarise } = await import('../../../core/message/summary.ts');
		const { CORPORA, corpusFiles } = await import('../testing/corpora.ts');
		const { readFileSync } = await import('node:fs');
		const files = corpusFiles('lists');
		const python = spawnSync(
			'python3',
			[
				'-c',
				`import email, json, re, sys
for line in sys.stdin:
    m = email.message_from_binary_file(open(line.rstrip('\\n'), 'rb'))
    found = re.search(r'<([^<>]+)>', str(m.get('list-id', '')).replace('\\n', ''))
    print(json.dumps([found.group(1).strip().lower() if found else '', m.get('list-unsubscribe') is not None]))`
			],
			{ input: files.join('\n'), encoding: 'utf8', maxBuffer: 50_000_000 }
		);
		const told = python.stdout
			.trim()
			.split('\n')
			.map((line) => JSON.parse(line) as [string, boolean]);
		expect(told).toHaveLength(files.length);
		let listed = 0;
		let leavable = 0;
		const differing: string[] = [];
		for (const [at, file] of files.entries()) {
			const summary = summarise(new Uint8Array(readFileSync(file)));
			const [listId, canLeave] = told[at] as [string, boolean];
			if (listId !== '') listed++;
			if (summary && canLeave && summary.leaveWays > 0) leavable++;
			if (listId !== '' && summary?.listId !== listId) differing.push(path.relative(CORPORA.lists, file));
			if (summary && canLeave && summary.listId === '') differing.push(path.relative(CORPORA.lists, file));
		}
		expect(differing).toEqual([]);
		expect(listed).toBeGreaterThan(1_000);
		expect(leavable).toBeGreaterThan(1_000);
		console.info(`of ${files.length} messages ${listed} with a List-Id, ${leavable} that say how to leave`);
	});
});
