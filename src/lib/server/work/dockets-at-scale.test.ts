import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { archiveEffect, type ItemState, restoreEffect } from '../../../core/docket/effects.ts';
import { change, row, rows } from '../stores/rows.ts';
import { compareWeights, recountWeights } from '../stores/weights.ts';
import { listLedger } from '../stores/ledger.ts';
import { openOffice } from '../testing/office.ts';
import { BATCH_ITEMS, carryOut, takeBack } from './carry-out.ts';
import type { Context } from './context.ts';
import { setQuota } from './mailboxes.ts';
import { prepareArchiving, prepareRestoring } from './prepare-docket.ts';

interface Made {
	state: ItemState;
	receivedOn: string | undefined;
	dateInDoubt: boolean;
}

/* Items put straight into the tables: what is tested here begins behind the import. */
async function fill(context: Context, items: readonly Made[]): Promise<void> {
	const { db } = context;
	await setQuota(context, { mailbox: 'Office', bytes: undefined });
	await change(
		db,
		`INSERT INTO folder (id, mailbox_id, tree, name, name_key, path) VALUES (1, 1, 'mailbox', 'Inbox', 'inbox', 'Inbox'), (2, 1, 'mailbox', 'Trash', 'trash', 'Trash'), (3, 1, 'archive', 'Inbox', 'inbox', 'Inbox')`
	);
	await change(db, `INSERT INTO organisation (id, domain) VALUES (1, 'x.example')`);
	await change(db, `INSERT INTO correspondent (id, address, name, organisation_id) VALUES (1, 'a@x.example', '', 1)`);
	const made = JSON.stringify(
		items.map(({ state, receivedOn, dateInDoubt }, n) => ({
			id: n + 1,
			state,
			on: receivedOn ?? null,
			doubt: Number(dateInDoubt),
			bytes: 100 + (n % 7)
		}))
	);
	await change(
		db,
		`INSERT INTO content (id, sha256, raw_bytes, stored_bytes, codec, data) SELECT value ->> 'id', cast(printf('%032d', value ->> 'id') AS BLOB), 1, 1, 'identity', x'00' FROM json_each(?)`,
		[made]
	);
	await change(
		db,
		`INSERT INTO message (id, content_id, message_id, reference_ids, subject, from_name, from_address, recipients, list_id, importance, attachments) SELECT value ->> 'id', value ->> 'id', '', '[]', '', '', '', '', '', 0, '[]' FROM json_each(?)`,
		[made]
	);
	await change(
		db,
		`INSERT INTO item (id, mailbox_id, message_id, state, folder_id, origin_folder_id, imported_folder_id, received_on, date_in_doubt, bytes, correspondent_id, organisation_id)
		 SELECT value ->> 'id', 1, value ->> 'id', value ->> 'state',
			CASE value ->> 'state' WHEN 'binned' THEN 2 WHEN 'archived' THEN 3 ELSE 1 END,
			CASE value ->> 'state' WHEN 'live' THEN NULL ELSE 1 END, 1, value ->> 'on', value ->> 'doubt', value ->> 'bytes', 1, 1
		 FROM json_each(?)`,
		[made]
	);
	await recountWeights(db);
}

const stateOf = async ({ db }: Context) =>
	(await rows<{ state: ItemState }>(db, `SELECT state FROM item ORDER BY id`)).map(({ state }) => state);

describe('the store decides as core/docket/effects does', () => {
	const item = fc.record<Made>({
		state: fc.constantFrom<ItemState>('live', 'archived', 'binned', 'destroyed'),
		receivedOn: fc.option(fc.constantFrom('0102-03-14', '2019-12-31', '2020-01-01', '2020-01-02', '2038-01-01'), {
			nil: undefined
		}),
		dateInDoubt: fc.boolean()
	});

	it('over generated items, archiving and restoring', async () => {
		await fc.assert(
			fc.asyncProperty(fc.array(item, { minLength: 1, maxLength: 40 }), async (items) => {
				const context = await openOffice();
				await fill(context, items);
				const draft = await prepareArchiving(context, { mailbox: 'Office', before: '2020-01-01' });
				const effects = items.map((made) => archiveEffect(made, '2020-01-01'));
				await carryOut(context, { id: draft.id, expected: draft });
				expect(await stateOf(context)).toEqual(
					items.map(({ state }, n) => ('to' in (effects[n] ?? {}) ? 'archived' : state))
				);
				for (const { reason, messages } of draft.lines[0]?.left ?? [])
					expect(effects.filter((effect) => 'left' in effect && effect.left === reason).length).toBe(messages);
				expect(await compareWeights(context.db)).toBe(0);

				const before = await stateOf(context);
				const ids = items.map((_, n) => n + 1);
				await carryOut(context, { id: (await prepareRestoring(context, { mailboxId: 1, ids })).id });
				const expected = before.map((state) => {
					const effect = restoreEffect({ state });
					return 'to' in effect ? effect.to : state;
				});
				expect(await stateOf(context)).toEqual(expected);
				expect(await compareWeights(context.db)).toBe(0);
				await context.db.destroy();
			}),
			{ numRuns: 15 }
		);
	});
});

const MANY = 2.5 * BATCH_ITEMS;

describe('in batches', () => {
	const many = (count: number): Made[] =>
		Array.from({ length: count }, () => ({ state: 'live', receivedOn: '2019-05-05', dateInDoubt: false }));

	it('goes on after a crash between two batches, each item exactly once', async () => {
		const context = await openOffice();
		await fill(context, many(MANY));
		const draft = await prepareArchiving(context, { mailbox: 'Office', before: '2020-01-01' });
		// what a crash leaves: one transaction done, the next never begun
		const crash = new AbortController();
		const cut = await carryOut(
			{ ...context, signal: crash.signal, report: () => crash.abort() },
			{ id: draft.id, expected: draft }
		);
		expect(cut).toMatchObject({ finished: false, messages: BATCH_ITEMS });
		expect(await compareWeights(context.db)).toBe(0);
		const done = await carryOut(context, { id: draft.id });
		expect(done).toMatchObject({ finished: true, messages: MANY, bytes: draft.bytes, left: [] });
		expect(await row(context.db, `SELECT count(*) AS n FROM item WHERE state = 'archived'`)).toEqual({ n: MANY });
		expect(await compareWeights(context.db)).toBe(0);
		const lines = (await listLedger(context.db)).filter(({ action }) => action === 'docket-carried-out');
		expect(lines.map(({ details }) => [details.messages, details.continues ?? false])).toEqual([
			[BATCH_ITEMS / 2, false],
			[BATCH_ITEMS, true],
			[BATCH_ITEMS, true]
		]);
	});

	it('takes back what a stopped docket has done', async () => {
		const context = await openOffice();
		await fill(context, many(BATCH_ITEMS + 2_000));
		const draft = await prepareArchiving(context, { mailbox: 'Office', before: '2020-01-01' });
		const stop = new AbortController();
		await carryOut({ ...context, signal: stop.signal, report: () => stop.abort() }, { id: draft.id });
		expect(await takeBack(context, { id: draft.id })).toMatchObject({
			finished: true,
			messages: BATCH_ITEMS,
			left: []
		});
		expect(
			await row(
				context.db,
				`SELECT count(*) AS n FROM item WHERE state = 'live' AND docket_id IS NULL AND folder_id = 1 AND origin_folder_id IS NULL`
			)
		).toEqual({ n: BATCH_ITEMS + 2_000 });
		expect(await compareWeights(context.db)).toBe(0);
	});

	it('counts by the index, without reading items', async () => {
		const context = await openOffice();
		await fill(context, many(10));
		const plan = await rows<{ detail: string }>(
			context.db,
			`EXPLAIN QUERY PLAN SELECT count(*), sum(bytes), count(DISTINCT folder_id) FROM item WHERE item.mailbox_id = 1 AND item.state IN ('live', 'binned') AND item.state = 'live' AND item.date_in_doubt = 0 AND item.received_on < '2020-01-01'`
		);
		expect(plan.map(({ detail }) => detail).join()).toContain('COVERING INDEX item_by_date');
	});
});
