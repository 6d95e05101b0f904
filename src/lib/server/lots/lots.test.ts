import { afterAll, describe, expect, it } from 'vitest';
import { type Grouping, GROUPINGS } from '../../../core/lots/lots.ts';
import { ATTACHMENT_KINDS } from '../../../core/message/kinds.ts';
import { MAIL_KINDS } from '../../../core/message/mail-kind.ts';
import { sizeBand } from '../../../core/testing/size-band.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { change, rows } from '../database/rows.ts';
import { type Sql, sql } from '../database/sql.ts';
import { inTransaction } from '../database/open.ts';
import { recountWeights, shiftWeights } from '../mail/weights-store.ts';
import { letter, mboxFile, openOffice } from '../testing/office.ts';
import { carryOut } from '../docket/carry-out.ts';
import type { Context } from '../context/context.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { listLists } from '../lists/lists.ts';
import { decideLots, listLots, lotItems } from './lots.ts';
import { findProposals } from './propose.ts';
import { listProposals } from './show-proposals.ts';

afterAll(closeParsePool);

const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov'];
const FILE =
	'MIME-Version: 1.0\nContent-Type: multipart/mixed; boundary=b\n\n--b\nContent-Type: text/plain\n\nSee the plan.\n--b\nContent-Type: application/pdf; name="plan.pdf"\nContent-Disposition: attachment\n\nxx\n--b\nContent-Type: image/png; name="plan.png"\nContent-Disposition: attachment\n\nxx\n--b--\n';

/* Thirty messages that differ in every grouping. */
function mail(): string[] {
	return Array.from({ length: 30 }, (_, n) => {
		const from = `Person ${n % 7} <p${n % 7}@${n % 3 === 0 ? 'mail.' : ''}org${n % 4}.${['example', 'test', 'example', 'org.test'][n % 4]}>`;
		const date = `${(n % 27) + 1} ${MONTHS[n % 11]} ${2018 + (n % 9)} 10:00:00 +0000`;
		let text = letter(`Subject ${n % 10}`, date, 'x'.repeat(n * 900), from);
		text = text.replace(/Message-ID: <.*>/, `Message-ID: <m${n}@x.example>`);
		text = text.replace(
			'To: office@skerryline.example',
			n % 5 === 0
				? 'To: other@x.example\nCc: office@skerryline.example'
				: n % 5 === 1
					? 'To: office@skerryline.example, other@x.example'
					: 'To: office@skerryline.example'
		);
		if (n % 6 === 0) text = `List-Id: <list${n % 2}.example>\nList-Unsubscribe: <mailto:u@x.example>\n${text}`;
		if (n % 8 === 0) text = text.replace(/\n\n[\s\S]*$/, `\n${FILE}`);
		return `Status: ${n % 3 === 0 ? 'O' : 'RO'}\n${text}`;
	});
}

async function office(): Promise<Context> {
	const context = await openOffice();
	const all = mail();
	await importMailbox(context, { path: mboxFile(all.slice(0, 20)), mailbox: 'Office', folder: 'Inbox' });
	await importMailbox(context, { path: mboxFile(all.slice(20)), mailbox: 'Office', folder: 'Vessels/MV Terne' });
	await change(
		context.db,
		sql`INSERT INTO tag (id, name, name_key, colour) VALUES (1, 'Ramp', 'ramp', 'slate'), (2, 'Quay', 'quay', 'rope')`
	);
	await change(
		context.db,
		sql`INSERT INTO item_tag SELECT id, 1 FROM item WHERE id % 4 = 0 UNION SELECT id, 2 FROM item WHERE id % 6 = 0`
	);
	return context;
}

interface Plain {
	id: number;
	bytes: number;
	receivedOn: string;
	seen: number | null;
	kinds: number;
	organisation: string;
	address: string;
	list: string | null;
	thread: number;
	folder: string;
	addressed: number;
	kind: number;
	tags: string | null;
}

const plainItems = ({ db }: Context) =>
	rows<Plain>(
		db,
		sql`SELECT item.id, bytes, received_on AS receivedOn, seen, attachment_kinds AS kinds, domain AS organisation, address,
			identifier AS list, thread_id AS thread, folder.path AS folder, addressed, mail_kind AS kind,
			(SELECT group_concat(tag_id) FROM item_tag WHERE item_id = item.id) AS tags
		 FROM item JOIN correspondent ON correspondent.id = correspondent_id JOIN organisation ON organisation.id = item.organisation_id
			LEFT JOIN list ON list.id = list_id JOIN folder ON folder.id = folder_id ORDER BY item.id`
	);

/* The lots of each message, computed without SQL. */
const BY: Record<Grouping, (item: Plain) => string[]> = {
	organisation: ({ organisation }) => [organisation],
	correspondent: ({ address }) => [address],
	tld: ({ organisation }) => [/\.([^.]+)$/.exec(organisation)?.[1] ?? ''],
	list: ({ list }) => [list ?? ''],
	thread: ({ thread }) => [String(thread)],
	folder: ({ folder }) => [folder],
	year: ({ receivedOn }) => [receivedOn.slice(0, 4)],
	month: ({ receivedOn }) => [receivedOn.slice(0, 7)],
	size: ({ bytes }) => [String(sizeBand(bytes))],
	attachment: ({ kinds }) =>
		kinds === 0 ? [''] : ATTACHMENT_KINDS.flatMap((_, bit) => (kinds & (1 << bit) ? [String(bit)] : [])),
	tag: ({ tags }) => tags?.split(',') ?? [''],
	addressed: ({ addressed }) => [String(addressed)],
	unread: ({ seen, receivedOn }) => [
		seen !== 0
			? 'read'
			: ['2026-10-25', '2026-08-25', '2026-05-25', '2025-11-25', '2024-11-25']
					.filter((border) => receivedOn < border)
					.length.toString()
	],
	kind: ({ kind }) => [String(kind)]
};

describe('lots', () => {
	it.each(Object.keys(GROUPINGS) as Grouping[])(
		'by %s are what a scan gives; each opens to just its messages',
		async (by) => {
			const context = await office();
			const items = await plainItems(context);
			const expected = new Map<string, Plain[]>();
			for (const item of items) for (const key of BY[by](item)) expected.set(key, [...(expected.get(key) ?? []), item]);
			const { lots, total } = await listLots(context, { mailboxId: 1, by, limit: 1_000 });
			const summary = (of: readonly Plain[]) => ({
				messages: of.length,
				bytes: of.reduce((sum, { bytes }) => sum + bytes, 0),
				oldest: of.map(({ receivedOn }) => receivedOn).sort()[0],
				newest: of
					.map(({ receivedOn }) => receivedOn)
					.sort()
					.at(-1),
				unread: of.filter(({ seen }) => seen === 0).length
			});
			const sorted = (all: object[]) => all.map((one) => JSON.stringify(one)).sort();
			expect(
				sorted(lots.map(({ messages, bytes, oldest, newest, unread }) => ({ messages, bytes, oldest, newest, unread })))
			).toEqual(sorted([...expected.values()].map(summary)));
			// a message in two lots counts once in the total
			expect(total).toEqual({
				lots: expected.size,
				messages: items.length,
				bytes: items.reduce((sum, { bytes }) => sum + bytes, 0)
			});
			const groups = [...expected.values()].map((of) =>
				of
					.map(({ id }) => id)
					.sort((a, b) => a - b)
					.join()
			);
			for (const { key } of lots) {
				const opened = await lotItems(context, { mailboxId: 1, by, key, limit: 1_000 });
				expect(groups).toContain(
					opened.items
						.map(({ id }) => id)
						.sort((a, b) => a - b)
						.join()
				);
			}
		}
	);

	/* Changes rows past the docket, and the summaries with them. */
	async function changeCounted({ db }: Context, statement: Sql): Promise<void> {
		const counted = { state: sql`item.state`, folder: sql`item.folder_id` };
		await inTransaction(db, async (trx) => {
			await shiftWeights(trx, { from: sql`item`, before: counted, after: undefined });
			await change(trx, statement);
			await shiftWeights(trx, { from: sql`item`, before: undefined, after: counted });
		});
	}

	describe('from a summary', () => {
		it.each(
			[
				'organisation',
				'correspondent',
				'tld',
				'list',
				'thread',
				'folder',
				'year',
				'month',
				'size',
				'attachment',
				'tag',
				'kind',
				'unread'
			].flatMap((by) =>
				(['bytes', 'newest', 'answered'] as const).flatMap((sort) =>
					[[1], undefined].map((mailboxIds) => [by as Grouping, sort, mailboxIds] as const)
				)
			)
		)(
			'by %s, sorted by %s, of %j: as they come from the items, also where dates are in doubt',
			async (by, sort, mailboxIds) => {
				const context = await office();
				await changeCounted(
					context,
					sql`UPDATE item SET date_in_doubt = 1, received_on = '0102-03-14' WHERE id % 7 = 0`
				);
				await changeCounted(context, sql`UPDATE item SET answered_on = '2025-01-0' || (id % 9 + 1) WHERE id % 5 = 0`);
				const sheet = { mailboxIds, by, sort, limit: 99 };
				const fast = await listLots(context, sheet);
				// a search that matches all still scans the items
				const slow = await listLots(context, { ...sheet, query: 'not larger:1GB' });
				expect(fast).toEqual(slow);
				expect(fast.lots.some(({ answered }) => answered !== null)).toBe(true);
				const some = { ...sheet, offset: 1, limit: 2 };
				expect((await listLots(context, some)).lots).toEqual(slow.lots.slice(1, 3));
			}
		);
	});

	it('are named and handed on as far as somebody scrolls, in one order', async () => {
		const context = await openOffice();
		await importMailbox(context, {
			path: mboxFile([letter('One', 'Mon, 02 Mar 2020 10:00:00 +0000')]),
			mailbox: 'Office'
		});
		const many = 1_500;
		const n = sql`WITH RECURSIVE n (i) AS (VALUES (2) UNION ALL SELECT i + 1 FROM n WHERE i < ${many})`;
		await inTransaction(context.db, async (db) => {
			await change(
				db,
				sql`${n} INSERT INTO content (id, sha256, raw_bytes, stored_bytes, codec, data)
				 SELECT i, CAST(printf('%032d', i) AS BLOB), 1, 1, 'identity', x'00' FROM n`
			);
			await change(
				db,
				sql`${n} INSERT INTO message (id, content_id, message_id, reference_ids, subject, from_name, from_address, recipients, list_id, importance, attachments, base_subject)
				 SELECT i, i, '<' || i || '@x>', '[]', 'Subject ' || i, '', '', '', '', 0, '[]', '' FROM n`
			);
			await change(
				db,
				sql`${n} INSERT INTO thread (id, mailbox_id, subject) SELECT i, 1, 'SUBJECT ' || i FROM n WHERE i > 1`
			);
			await change(
				db,
				sql`${n} INSERT INTO item (mailbox_id, message_id, state, folder_id, imported_folder_id, received_on, date_in_doubt, bytes, seen, correspondent_id, organisation_id, thread_id)
				 SELECT 1, i, 'live', folder_id, folder_id, date('2020-01-01', i || ' days'), 0, 1000 + (i * 7919) % 1000, i % 2, correspondent_id, organisation_id, i
				 FROM n CROSS JOIN item WHERE item.id = 1`
			);
			await recountWeights(db);
		});
		for (const sort of ['bytes', 'messages', 'unread', 'newest', 'label'] as const) {
			const sheet = { mailboxId: 1, by: 'thread' as const, sort };
			const first = await listLots(context, { ...sheet, limit: 100 });
			expect(first.total).toMatchObject({ lots: many, messages: many });
			const last = await listLots(context, { ...sheet, offset: many - 100, limit: 200 });
			const whole = await listLots(context, { ...sheet, limit: 10_000 });
			expect([whole.total, whole.heaviest]).toEqual([first.total, first.heaviest]);
			expect(new Set(whole.lots.map(({ key }) => key)).size).toBe(many);
			expect(whole.lots.slice(0, 100)).toEqual(first.lots);
			expect(whole.lots.slice(-100)).toEqual(last.lots);
			if (sort !== 'bytes') continue;
			const heavy = whole.lots.map(({ bytes }) => bytes);
			expect(heavy).toEqual([...heavy].sort((a, b) => b - a));
		}
	});

	it('never decide by a date that cannot be true (invariant 6)', async () => {
		const context = await office();
		// as if it were the newest of all, and as if it were unread for two thousand years
		await change(context.db, sql`UPDATE item SET date_in_doubt = 1, received_on = '2038-01-01' WHERE id = 1`);
		await change(context.db, sql`UPDATE item SET date_in_doubt = 1, received_on = '0102-03-14' WHERE id = 4`);
		const { lots } = await listLots(context, { mailboxId: 1, by: 'unread', limit: 99 });
		expect(lots.find(({ key }) => key === '')).toMatchObject({ label: 'unread, date in doubt', messages: 2 });
		const [docket] = await decideLots(context, {
			mailboxId: 1,
			by: 'folder',
			decision: 'delete',
			options: { keepNewest: 1 }
		});
		expect(docket?.lines[0]).toMatchObject({ messages: 30 - 2 - 2 });
		expect(docket?.lines[0]?.left).toContainEqual({ reason: 'date-in-doubt', messages: 2 });
	});

	it('guesses whom the mailbox belongs to, and how each message names them', async () => {
		const context = await office();
		const counts = new Map<number, number>();
		for (const { addressed } of await plainItems(context)) counts.set(addressed, (counts.get(addressed) ?? 0) + 1);
		// lists; alone; among others; copied: taken from the mail above
		expect(Object.fromEntries(counts)).toEqual({ 1: 15, 2: 5, 3: 5, 4: 5 });
	});

	it('are filtered by a search and a folder, sorted, and given in parts', async () => {
		const context = await office();
		const whole = await listLots(context, { mailboxId: 1, by: 'correspondent', limit: 100, sort: 'label' });
		const parts = [];
		for (let offset = 0; offset < whole.total.lots; offset += 3)
			parts.push(
				...(await listLots(context, { mailboxId: 1, by: 'correspondent', limit: 3, offset, sort: 'label' })).lots
			);
		expect(parts).toEqual(whole.lots);
		const some = await listLots(context, { mailboxId: 1, by: 'folder', folder: 'Vessels', query: 'unread', limit: 9 });
		const expected = (await plainItems(context)).filter(
			({ folder, seen }) => folder.startsWith('Vessels') && seen === 0
		);
		expect(some.total).toMatchObject({ lots: 1, messages: expected.length });
		await expect(listLots(context, { mailboxId: 1, by: 'year', query: '(', limit: 9 })).rejects.toThrow(
			'Something is missing'
		);
		// a change is counted, although the sheet was cached
		await changeCounted(
			context,
			sql`UPDATE item SET state = 'archived' WHERE folder_id = (SELECT folder_id FROM item WHERE id = 30)`
		);
		expect((await listLots(context, { mailboxId: 1, by: 'folder', limit: 9 })).total.messages).toBe(20);
	});

	it('are decided on: keys, all that match but some, single messages left out and added, the newest of each kept', async () => {
		const context = await office();
		const items = await plainItems(context);
		const orgs = (await listLots(context, { mailboxId: 1, by: 'organisation', limit: 9 })).lots;
		const [first, second] = orgs as [(typeof orgs)[number], (typeof orgs)[number]];
		const of = (label: string) => items.filter(({ organisation }) => organisation === label);
		const out = of(first.label)[0]?.id as number;
		const extra = of(second.label)[0]?.id as number;
		const [docket] = await decideLots(context, {
			mailboxId: 1,
			by: 'organisation',
			keys: [first.key],
			without: [out],
			items: [extra],
			labels: [first.label],
			decision: 'archive',
			options: {}
		});
		expect(docket?.lines.map(({ messages }) => messages)).toEqual([of(first.label).length - 1, 1]);
		expect(docket?.lines[0]?.sentence).toContain(`from ${first.label}`);
		await carryOut(context, { id: docket?.id as number });
		const archived = await rows<{ id: number }>(
			context.db,
			sql`SELECT id FROM item WHERE state = 'archived' ORDER BY id`
		);
		expect(archived.map(({ id }) => id)).toEqual(
			[
				...of(first.label)
					.map(({ id }) => id)
					.filter((id) => id !== out),
				extra
			].sort((a, b) => a - b)
		);

		const [rest] = await decideLots(context, {
			mailboxId: 1,
			by: 'organisation',
			withoutKeys: [second.key],
			decision: 'delete',
			options: { keepNewest: 1 }
		});
		const left = items.filter(({ id }) => !archived.some((one) => one.id === id));
		const lots = new Map<string, number>();
		for (const { organisation } of left) lots.set(organisation, (lots.get(organisation) ?? 0) + 1);
		lots.delete(second.label);
		expect(rest?.messages).toBe([...lots.values()].reduce((sum, n) => sum + n - 1, 0));
		expect(rest?.lines[0]?.left).toContainEqual({ reason: 'newest', messages: lots.size });
		await carryOut(context, { id: rest?.id as number });
		const newest = await rows<{ on: string; other: string }>(
			context.db,
			sql`SELECT max(received_on) AS "on", (SELECT max(received_on) FROM item deleted WHERE deleted.organisation_id = item.organisation_id AND deleted.state = 'binned') AS other
			 FROM item WHERE state = 'live' GROUP BY organisation_id HAVING other IS NOT NULL`
		);
		for (const { on, other } of newest) expect(on >= other).toBe(true);
	});

	it('over all mailboxes go onto the docket of each that has something in them', async () => {
		const context = await office();
		await importMailbox(context, {
			path: mboxFile([letter('Only', 'Mon, 02 Mar 2020 10:00:00 +0000', 'x', 'q@solo.example')]),
			mailbox: 'Crew'
		});
		const { lots } = await listLots(context, { by: 'organisation', limit: 99 });
		const solo = lots.find(({ label }) => label === 'solo.example');
		const dockets = await decideLots(context, {
			by: 'organisation',
			keys: [solo?.key as string],
			decision: 'archive',
			options: {}
		});
		expect(dockets.map(({ mailbox, messages }) => [mailbox, messages])).toEqual([['Crew', 1]]);
		expect((await listLots(context, { by: 'folder', limit: 99 })).lots.map(({ label }) => label).sort()).toEqual([
			'Crew: Inbox',
			'Office: Inbox',
			'Office: Vessels/MV Terne'
		]);
	});

	it('know each kind of mail by its number', () => {
		expect(MAIL_KINDS.indexOf('advertisement')).toBe(2);
	});
});

describe('a list recognised by its footer', () => {
	it('is of one kind everywhere: under lots, in a search, among the lists, and for what is proposed', async () => {
		const context = await openOffice();
		const footer = 'Ramp notes of the week.\n\n--\nTo unsubscribe, go to https://notes.example/leave';
		await importMailbox(context, {
			path: mboxFile(
				[
					...Array.from({ length: 250 }, (_, n) =>
						letter(`Notes ${n}`, 'Mon, 02 Mar 2020 10:00:00 +0000', footer, 'Notes <n@notes.example>')
					),
					...Array.from({ length: 150 }, (_, n) =>
						letter(`Word ${n}`, 'Mon, 02 Mar 2020 10:00:00 +0000', 'As agreed.', 'Emre <e@x.example>')
					)
				],
				'Status: O\n'
			),
			mailbox: 'Office'
		});
		const { lots } = await listLots(context, { mailboxId: 1, by: 'kind', query: '', limit: 10 });
		expect(Object.fromEntries(lots.map(({ label, messages }) => [label, messages]))).toEqual({
			'newsletter or advertisement': 250,
			'person to person': 150
		});
		expect((await listLists(context, { mailboxId: 1, limit: 5 })).total).toMatchObject({ lists: 1, messages: 250 });
		await findProposals(context, { mailboxId: 1 });
		const { proposals } = await listProposals(context, { mailboxId: 1 });
		expect(proposals.find(({ kind }) => kind === 'newsletter-unread')?.messages).toBe(250);
		expect(proposals.find(({ kind }) => kind === 'never-opened')?.messages).toBe(150);
	});
});
