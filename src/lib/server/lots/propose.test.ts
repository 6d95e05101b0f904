import { mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import type { Decision } from '../../../core/docket/decisions.ts';
import { type ProposalKind } from '../../../core/likeness/proposals.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { change, rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import type { Decided } from '../docket/scope.ts';
import { letter, mboxFile, openOffice, temporaryFolder } from '../testing/office.ts';
import { carryOut } from '../docket/carry-out.ts';
import type { Context } from '../context/context.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { placeHold } from '../retention/holds.ts';
import { prepareDocket } from '../docket/prepare-docket.ts';
import { findProposals } from './propose.ts';
import { listProposals, proposalItems, setProposalTags } from './show-proposals.ts';

afterAll(closeParsePool);

const OLD = 'Mon, 02 Mar 2020 10:00:00 +0000';
const LATER = 'Tue, 03 Mar 2020 10:00:00 +0000';
const LAST = 'Wed, 04 Mar 2020 10:00:00 +0000';
const RECENT = 'Fri, 20 Nov 2026 10:00:00 +0000';

const withField = (text: string, field: string) => text.replace('\n\n', `\n${field}\n\n`);
const withId = (text: string, id: string) => text.replace(/Message-ID: <.*>/, `Message-ID: <${id}@x.example>`);
const reply = (subject: string, to: string, date: string, text: string, id: string) =>
	withId(withField(letter(`Re: ${subject}`, date, text), `References: <${to}@x.example>`), id);
const quote = (text: string) =>
	text
		.split('\n')
		.map((line) => `> ${line}`)
		.join('\n');

const QUESTION = 'Could you confirm the number of trailers?\nThe ramp limit is twelve tonnes an axle.';
const FIRST_ANSWER = `Four trailers, all below the limit.\n\n${quote(QUESTION)}`;

const MAIL: Record<string, string[]> = {
	Inbox: [
		letter('Twice', OLD, 'The same in two places.'),
		withField(
			letter('Bounced about', OLD, 'One message, two ways.'),
			'Received: from a.example by b.example; Mon, 02 Mar 2020 10:00:01 +0000'
		),
		withId(letter('Ramp', OLD, QUESTION), 'q'),
		reply('Ramp', 'q', LATER, FIRST_ANSWER, 'a'),
		reply('Ramp', 'a', LAST, `Good, thank you, that is settled then.\n\n${quote(FIRST_ANSWER)}`, 'b'),
		withId(letter('Light', OLD, 'The green light at the quay is dim again, and the lens is cracked.'), 'l'),
		reply('Light', 'l', LATER, `I will look.\n\n> The green light at the quay is dim again.`, 'l2'),
		withField(letter('Last chance', OLD, 'Everything must go.'), 'List-Unsubscribe: <https://x.example/u>'),
		withField(letter('Fresh offer', RECENT, 'New.'), 'List-Unsubscribe: <https://x.example/u>'),
		withField(letter('Old notice', OLD, 'Gone by.'), 'Expires: Thu, 05 Mar 2020 10:00:00 +0000'),
		withField(letter('Away', OLD, 'I am away.'), 'Auto-Submitted: auto-replied'),
		withField(
			letter('Comes', OLD, 'BEGIN:VEVENT\nDTEND:20200304T100000Z\nEND:VEVENT'),
			'Content-Type: text/calendar; method=REPLY'
		),
		letter('Re: Roster', OLD, 'Thank you!', 'Emre <emre@x.example>'),
		letter('Unopened', OLD, 'Nobody ever read this.', 'Stranger <s@y.example>')
	],
	Contracts: [
		letter('Twice', OLD, 'The same in two places.'),
		withField(
			letter('Bounced about', OLD, 'One message, two ways.'),
			'Received: from c.example by d.example; Mon, 02 Mar 2020 10:00:02 +0000'
		),
		letter('Large', OLD, 'x'.repeat(5_200_000))
	],
	Drafts: [letter('Half a thought', OLD, 'Dear')]
};

async function office(): Promise<Context> {
	const context = await openOffice();
	const folder = temporaryFolder();
	mkdirSync(path.join(folder, 'x'));
	for (const [name, letters] of Object.entries(MAIL))
		writeFileSync(
			path.join(folder, `${name}.mbox`),
			letters
				.map((text) => `From a@b.example Thu Jan  1 00:00:00 1970\nStatus: O\n${text.replace(/^From /gm, '>From ')}\n`)
				.join('')
		);
	await importMailbox(context, { path: folder, mailbox: 'Office' });
	await findProposals(context, { mailboxId: 1 });
	return context;
}

const found = async (context: Context, kind: ProposalKind) =>
	(await proposalItems(context, { mailboxId: 1, kind, limit: 100 })).items
		.map(({ subject, folder }) => `${folder}: ${subject}`)
		.sort();

describe('what is safe to clear', () => {
	it('finds each kind, with its reason, and nothing else', async () => {
		const context = await office();
		const expected: Record<ProposalKind, string[]> = {
			'same-bytes': ['Inbox: Twice'],
			'same-content': ['Inbox: Bounced about'],
			'quoted-in-full': ['Inbox: Ramp', 'Inbox: Re: Ramp'],
			'newsletter-unread': ['Inbox: Last chance'],
			expired: ['Inbox: Old notice'],
			automatic: ['Inbox: Away'],
			'calendar-past': ['Inbox: Comes'],
			thanks: ['Inbox: Re: Roster'],
			leftover: ['Drafts: Half a thought'],
			'never-opened': ['Inbox: Unopened'],
			largest: ['Contracts: Large']
		};
		for (const [kind, subjects] of Object.entries(expected)) {
			const mine = await found(context, kind as ProposalKind);
			if (kind === 'never-opened') expect(mine).toContain(subjects[0]);
			else expect(mine, kind).toEqual(subjects);
		}
		const { proposals, lookedAt } = await listProposals(context, { mailboxId: 1 });
		expect(lookedAt).toBe('2026-11-25T12:00:00.000Z');
		expect(proposals.map(({ bytes }) => bytes)).toEqual(proposals.map(({ bytes }) => bytes).sort((a, b) => b - a));
		const { items } = await proposalItems(context, { mailboxId: 1, kind: 'same-bytes', limit: 5 });
		expect(items[0]).toMatchObject({ reason: 'also in Contracts, a folder made for it' });
	});

	const line = (proposal: ProposalKind, decision: 'delete' | 'archive' = 'delete'): Decided => ({
		decision,
		options: {},
		scope: { kind: 'proposal', proposal, ids: undefined, label: '' }
	});
	const carry = async (context: Context, ...lines: Decided[]) => {
		const docket = await prepareDocket(context, { mailboxId: 1, lines });
		await carryOut(context, { id: docket.id });
		return docket;
	};

	it('does not say that a mailbox was looked through where that was stopped', async () => {
		const context = await openOffice();
		await importMailbox(context, { path: mboxFile([letter('One', '3 Feb 2020 10:00:00 +0000')]), mailbox: 'Office' });
		const stopped = { ...context, signal: AbortSignal.abort() };
		expect(await findProposals(stopped, { mailboxId: 1 })).toEqual({ finished: false });
		expect((await listProposals(context, { mailboxId: 1 })).lookedAt).toBeUndefined();
		expect(await findProposals(context, { mailboxId: 1 })).toEqual({ finished: true });
		expect((await listProposals(context, { mailboxId: 1 })).lookedAt).toBe('2026-11-25T12:00:00.000Z');
	});

	it('never deletes what is left as the only one', async () => {
		const context = await office();
		// the better one goes first: those that rest on it stay
		const better = await rows<{ id: number }>(
			context.db,
			sql`SELECT better_item_id AS id FROM proposal_item WHERE kind = 'same-bytes'`
		);
		await carry(context, {
			decision: 'delete',
			options: {},
			scope: { kind: 'items', ids: better.map(({ id }) => id) }
		});
		const docket = await carry(context, line('same-bytes'), line('largest', 'archive'));
		expect(docket.lines[0]).toMatchObject({ messages: 0, left: [{ reason: 'needed', messages: 1 }] });
	});

	it('nor where the better one goes in the same docket', async () => {
		const context = await office();
		const better = await rows<{ id: number }>(
			context.db,
			sql`SELECT DISTINCT better_item_id AS id FROM proposal_item WHERE kind = 'quoted-in-full'`
		);
		const docket = await carry(context, line('quoted-in-full'), {
			decision: 'delete',
			options: {},
			scope: { kind: 'items', ids: better.map(({ id }) => id) }
		});
		expect(docket.lines[0]).toMatchObject({ messages: 0, left: [{ reason: 'needed', messages: 2 }] });
	});

	it('nor where the better one would go by another docket that was stopped on the way', async () => {
		const context = await office();
		const better = await rows<{ id: number }>(
			context.db,
			sql`SELECT DISTINCT better_item_id AS id FROM proposal_item WHERE kind = 'quoted-in-full'`
		);
		const stopped = await prepareDocket(context, { mailboxId: 1, lines: [line('quoted-in-full')] });
		const other = await prepareDocket(context, {
			mailboxId: 1,
			lines: [{ decision: 'delete', options: {}, scope: { kind: 'items', ids: better.map(({ id }) => id) } }]
		});
		expect(await carryOut({ ...context, signal: AbortSignal.abort() }, { id: stopped.id })).toMatchObject({
			messages: 0,
			finished: false
		});
		await expect(carryOut(context, { id: other.id })).rejects.toThrow('was stopped on the way');
		await carryOut(context, { id: stopped.id });
		expect(await carryOut(context, { id: other.id })).toMatchObject({ finished: true });
	});

	it('of a chain of quotes leaves the last, which carries all', async () => {
		const context = await office();
		expect((await carry(context, line('quoted-in-full'))).messages).toBe(2);
		expect(
			await rows(
				context.db,
				sql`SELECT subject FROM item JOIN message ON message.id = item.message_id WHERE state = 'live' AND subject LIKE '%Ramp'`
			)
		).toEqual([{ subject: 'Re: Ramp' }]);
	});

	it('leaves out what somebody or something speaks for; what it would free is what its docket frees', async () => {
		const context = await office();
		const { db } = context;
		const of = async (subject: string) =>
			(
				await rows<{ id: number }>(
					db,
					sql`SELECT item.id FROM item JOIN message ON message.id = item.message_id JOIN folder ON folder.id = folder_id
					 WHERE subject = ${subject} AND folder.path <> 'Contracts'`
				)
			)[0]?.id as number;
		const sums = async () =>
			Object.fromEntries(
				(await listProposals(context, { mailboxId: 1 })).proposals.map(({ kind, messages }) => [kind, messages])
			);
		const whole = await sums();
		expect(whole).toMatchObject({ automatic: 1, expired: 1, 'newsletter-unread': 1, thanks: 1, 'same-bytes': 1 });

		const item = async (decision: Decision, subject: string, options = {}) =>
			carry(context, { decision, options, scope: { kind: 'items', ids: [await of(subject)] } });
		await item('flag', 'Away');
		await item('pause', 'Old notice', { until: '2027-01-01', because: 'the audit' });
		await item('tag', 'Last chance', { tag: 'Claim' });
		await item('classify', 'Re: Roster', { class: 'record', because: 'it is one' });
		await item('never-archive', 'Twice');
		await placeHold(context, { name: 'Ramp', because: 'a claim', from: 'Counsel', query: 'subject:Bounced' });
		await setProposalTags(context, { tags: ['claim'] });
		await expect(setProposalTags(context, { tags: ['nothing'] })).rejects.toThrow('There is no tag "nothing"');
		const less = await sums();
		for (const kind of ['automatic', 'expired', 'newsletter-unread', 'thanks', 'same-bytes', 'same-content'])
			expect([kind, less[kind]]).toEqual([kind, undefined]);
		expect(less['quoted-in-full']).toBe(2);

		const { proposals } = await listProposals(context, { mailboxId: 1 });
		expect(proposals.length).toBeGreaterThan(2);
		for (const { kind, decision, messages, bytes } of proposals) {
			const scope = { kind: 'proposal' as const, proposal: kind, ids: undefined, label: '' };
			const docket = await prepareDocket(context, { mailboxId: 1, lines: [{ decision, options: {}, scope }] });
			expect([kind, docket.messages, docket.bytes]).toEqual([kind, messages, bytes]);
			expect((await proposalItems(context, { mailboxId: 1, kind, limit: 100 })).total).toBe(messages);
		}
	});

	it('deletes by its main button only what is safe to clear, and can be narrowed to a folder', async () => {
		const context = await office();
		const { proposals } = await listProposals(context, { mailboxId: 1 });
		for (const { kind, standing, decision } of proposals)
			expect([kind, decision]).toEqual([kind, standing === 'safe' ? 'delete' : 'archive']);
		const inDrafts = await listProposals(context, { mailboxId: 1, folder: 'Drafts' });
		expect(inDrafts.proposals.map(({ kind, messages }) => [kind, messages])).toContainEqual(['leftover', 1]);
		expect(inDrafts.proposals.length).toBeLessThan(proposals.length);
		const [draft] = (await proposalItems(context, { mailboxId: 1, kind: 'leftover', folder: 'Drafts', limit: 9 }))
			.items;
		expect(draft?.subject).toBe('Half a thought');
		expect(
			(await proposalItems(context, { mailboxId: 1, kind: 'leftover', folder: 'Contracts', limit: 9 })).total
		).toBe(0);
	});

	it('takes out what is kept, and what is gone, and says which folders are empty', async () => {
		const context = await office();
		await change(
			context.db,
			sql`UPDATE item SET kept = 1 WHERE message_id IN (SELECT id FROM message WHERE subject = 'Away')`
		);
		expect((await listProposals(context, { mailboxId: 1 })).proposals.some(({ kind }) => kind === 'automatic')).toBe(
			false
		);
		expect((await listProposals(context, { mailboxId: 1 })).emptyFolders).toEqual([]);
		await carry(context, {
			decision: 'archive',
			options: {},
			scope: { kind: 'query', query: 'folder:Contracts', label: '' }
		});
		expect((await listProposals(context, { mailboxId: 1 })).emptyFolders.map((folder) => folder.path)).toEqual([
			'Contracts'
		]);
	});
});

describe('what would lose text is not proposed', () => {
	const html = (plain: string, rich: string) =>
		`MIME-Version: 1.0\nContent-Type: multipart/alternative; boundary=b\n\n--b\nContent-Type: text/plain\n\n${plain}\n--b\nContent-Type: text/html\n\n${rich}\n--b--\n`;
	/* A letter with that body; the header ends where the body begins. */
	const raw = (subject: string, id: string, date: string, rest: string, to = '', from = 'Emre <emre@x.example>') =>
		`From: ${from}\nTo: office@skerryline.example\nSubject: ${subject}\nDate: ${date}\nMessage-ID: <${id}@x.example>\n${to ? `References: <${to}@x.example>\n` : ''}${rest}`;
	const KINDS = 200;
	async function many(thread: (n: number) => string[]): Promise<Context> {
		const context = await openOffice();
		await importMailbox(context, {
			path: mboxFile(Array.from({ length: KINDS }, (_, n) => thread(n)).flat()),
			mailbox: 'Office'
		});
		await findProposals(context, { mailboxId: 1 });
		return context;
	}
	const proposed = async (context: Context, kind: ProposalKind) =>
		(await proposalItems(context, { mailboxId: 1, kind, limit: 1_000 })).items;

	it('a plain part that says only that the rest is in HTML, quoted by a reply', async () => {
		const STUB = 'This message is best read as HTML by any modern reader.';
		const context = await many((n) => [
			raw(`Stub ${n}`, `s${n}`, OLD, html(STUB, `<p>The slipway is let for ${n + 100} a day from March on.</p>`)),
			raw(`Re: Stub ${n}`, `r${n}`, LATER, `\nNoted.\n\n> ${STUB}\n`, `s${n}`),
			// the same if the HTML says no more, and if all of it is quoted
			raw(
				`Same ${n}`,
				`u${n}`,
				OLD,
				html(`The ramp of berth ${n} is closed on Monday.`, `<p>The ramp of berth <b>${n}</b> is closed on Monday.</p>`)
			),
			raw(`Re: Same ${n}`, `v${n}`, LATER, `\nNoted.\n\n> The ramp of berth ${n} is closed on Monday.\n`, `u${n}`)
		]);
		const items = await proposed(context, 'quoted-in-full');
		expect(items.filter(({ subject }) => subject.startsWith('Stub'))).toEqual([]);
		expect(items.filter(({ subject }) => subject.startsWith('Same'))).toHaveLength(KINDS);
	});

	it('answers between the lines are told apart', async () => {
		const context = await many((n) => [
			raw(`Ramp ${n}`, `q${n}`, OLD, `\n${QUESTION}\n`),
			raw(
				`Re: Ramp ${n}`,
				`a${n}`,
				LATER,
				n % 2 === 0
					? `\nOn Monday Emre wrote:\n${quote(QUESTION).replace('\n', '\n\nFour of them.\n\n')}\n`
					: `\nFour of them.\n\n${quote(QUESTION)}\n`,
				`q${n}`
			)
		]);
		const reasons = (await proposed(context, 'quoted-in-full')).map(({ reason }) => reason);
		expect(reasons).toHaveLength(KINDS);
		expect(reasons.filter((reason) => reason.endsWith('with answers written between its lines'))).toHaveLength(
			KINDS / 2
		);
	});

	it('a line of thanks above words that stand nowhere else, marked as if they were quoted or only in HTML', async () => {
		const OWN = '> The claim of 4,000 is settled, and the file can be closed.';
		const context = await many((n) => [
			raw(`Claim ${n}`, `c${n}`, OLD, `\n${QUESTION}\n`),
			raw(`Re: Claim ${n}`, `own${n}`, LATER, `\nThank you!\n\n${OWN}\n`, `c${n}`),
			raw(
				`Re: Claim ${n}`,
				`html${n}`,
				LATER,
				html('Thank you!', `<p>Thank you!</p><p>Only here: the lease of berth ${n} ends.</p>`),
				`c${n}`
			),
			raw(
				`Re: Claim ${n}`,
				`good${n}`,
				LAST,
				`\nThank you!\n\nOn Monday Emre wrote:\n${quote(QUESTION)}\n`,
				`c${n}`,
				'Tove <tove@skerryline.example>'
			),
			raw(`Re: Claim ${n}`, `plain${n}`, LAST, `\nThank you!\n`, `c${n}`, 'Tove <tove@skerryline.example>')
		]);
		const items = await proposed(context, 'thanks');
		expect(items).toHaveLength(2 * KINDS);
		expect(new Set(items.map(({ fromAddress }) => fromAddress))).toEqual(new Set(['tove@skerryline.example']));
		const [quoting] = items.filter(({ betterId }) => betterId !== null);
		const better = await context
			.db('item')
			.join('message', 'message.id', 'item.message_id')
			.where('item.id', quoting?.betterId ?? 0)
			.first('subject');
		expect(better?.subject).toMatch(/^Claim/);
		// if the quoted message goes, the thanks that quotes it stays
		const scope = { kind: 'query' as const, query: 'subject:claim', label: '' };
		const docket = await prepareDocket(context, {
			mailboxId: 1,
			lines: [
				{ decision: 'delete', options: {}, scope: { kind: 'proposal', proposal: 'thanks', ids: undefined, label: '' } },
				{ decision: 'delete', options: {}, scope: { ...scope, query: 'from:emre subject:claim' } }
			]
		});
		expect(docket.lines[0]?.left).toContainEqual({ reason: 'needed', messages: KINDS });
	});

	it('an empty message whose HTML shows a picture from elsewhere', async () => {
		const context = await many((n) => [
			raw('', `p${n}`, OLD, html('', `<img src="https://x.example/${n}.png">`)),
			raw('', `e${n}`, OLD, html('', `<p></p>`))
		]);
		expect(await proposed(context, 'leftover')).toHaveLength(KINDS);
	});
});

describe('mail that an earlier Kovrel has read', () => {
	it('is read again, index and all, and can be destroyed then', async () => {
		const context = await office();
		const { find } = await import('../find/find.ts');
		const { rereadMail } = await import('../mail/reread-mail.ts');
		const { prepareEmptying } = await import('../archive/bin.ts');
		const before = await rows(context.db, sql`SELECT * FROM message ORDER BY id`);
		await change(context.db, sql`UPDATE message SET reading = 0, traits = 0, base_subject = ''`);
		await carry(context, {
			decision: 'delete',
			options: {},
			scope: { kind: 'query', query: 'subject:away', label: '' }
		});
		const { id } = await prepareEmptying(context, { mailboxId: 1, onlyDue: false });
		await expect(carryOut(context, { id })).rejects.toThrow('have to be read again');
		expect(await rereadMail(context)).toMatchObject({ finished: true, messages: before.length });
		expect(await rows(context.db, sql`SELECT * FROM message ORDER BY id`)).toEqual(before);
		expect((await find(context, { query: 'cracked', limit: 5 })).total).toBe(1);
		await carryOut(context, { id, confirm: 'destroy' });
		await change(context.db, sql`INSERT INTO words (words) VALUES ('integrity-check')`);
		expect(await rereadMail(context)).toEqual({ finished: true, messages: 0 });
	});

	async function carry(context: Context, line: Decided) {
		const { id } = await prepareDocket(context, { mailboxId: 1, lines: [line] });
		await carryOut(context, { id, confirm: 'destroy' });
	}
});
