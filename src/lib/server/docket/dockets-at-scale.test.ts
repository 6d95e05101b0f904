import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type DecisionOptions, type ItemState, type Protection, PROTECTIONS } from '../../../core/docket/decision.ts';
import { type Decision, DECISIONS, ruleOf, winner } from '../../../core/docket/decisions.ts';
import { type DecidedItem, effectOf } from '../testing/effect-model.ts';
import { change, row, rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import type { Decided, Scope } from './scope.ts';
import { compareWeights } from '../mail/weights-store.ts';
import { recountWeights } from '../mail/weights-store.ts';
import { listLedger } from '../ledger/ledger-store.ts';
import { openOffice } from '../testing/office.ts';
import { carryOut, takeBack } from './carry-out.ts';
import { BATCH_ITEMS } from './changes/place-change-store.ts';
import type { Context } from '../context/context.ts';
import { setQuota } from '../mail/mailboxes.ts';
import { prepareArchiving } from '../archive/prepare-archiving.ts';
import { prepareDocket } from './prepare-docket.ts';

type Made = Pick<DecidedItem, 'state' | 'receivedOn' | 'dateInDoubt'> & Partial<DecidedItem>;

/* Items put straight into the tables: the import is not under test here. */
async function fill(context: Context, items: readonly Made[]): Promise<void> {
	const { db } = context;
	await setQuota(context, { mailbox: 'Office', bytes: undefined });
	await change(
		db,
		sql`INSERT INTO folder (id, mailbox_id, tree, name, name_key, path) VALUES (1, 1, 'mailbox', 'Inbox', 'inbox', 'Inbox'), (2, 1, 'mailbox', 'Trash', 'trash', 'Trash'), (3, 1, 'archive', 'Inbox', 'inbox', 'Inbox')`
	);
	await change(db, sql`INSERT INTO organisation (id, domain) VALUES (1, 'x.example')`);
	await change(
		db,
		sql`INSERT INTO correspondent (id, address, name, organisation_id) VALUES (1, 'a@x.example', '', 1)`
	);
	const made = JSON.stringify(
		items.map(({ state, receivedOn, dateInDoubt, flagged, seen, kept, neverArchived, paused, held, record }, n) => ({
			id: n + 1,
			flagged: Number(flagged ?? false),
			seen: seen === undefined ? null : Number(seen),
			kept: Number(kept ?? false),
			never: Number(neverArchived ?? false),
			held: Number(held ?? false),
			class: record ? 3 : null,
			// one pause that has ended, and one that has not
			pause: paused === undefined ? null : paused ? 1 : 2,
			state,
			on: receivedOn ?? null,
			doubt: Number(dateInDoubt),
			bytes: 100 + (n % 7)
		}))
	);
	await change(
		db,
		sql`INSERT INTO content (id, sha256, raw_bytes, stored_bytes, codec, data) SELECT value ->> 'id', cast(printf('%032d', value ->> 'id') AS BLOB), 1, 1, 'identity', x'00' FROM json_each(${made})`
	);
	await change(
		db,
		sql`INSERT INTO message (id, content_id, message_id, reference_ids, subject, from_name, from_address, recipients, list_id, importance, attachments) SELECT value ->> 'id', value ->> 'id', '', '[]', '', '', '', '', '', 0, '[]' FROM json_each(${made})`
	);
	await change(
		db,
		sql`INSERT INTO pause (id, mailbox_id, until, because, made_by, made_at) VALUES (1, 1, '2027-01-01', 'x', '', ''), (2, 1, '2026-11-25', 'x', '', '')`
	);
	await change(
		db,
		sql`INSERT INTO item (id, mailbox_id, message_id, state, folder_id, origin_folder_id, imported_folder_id, received_on, date_in_doubt, bytes, correspondent_id, organisation_id, flagged, seen, kept, never_archived, pause_id, own_class, class)
		 SELECT value ->> 'id', 1, value ->> 'id', value ->> 'state',
			CASE value ->> 'state' WHEN 'binned' THEN 2 WHEN 'archived' THEN 3 ELSE 1 END,
			CASE value ->> 'state' WHEN 'live' THEN NULL ELSE 1 END, 1, value ->> 'on', value ->> 'doubt', value ->> 'bytes', 1, 1,
			value ->> 'flagged', value ->> 'seen', value ->> 'kept', value ->> 'never', value ->> 'pause', value ->> 'class', ifnull(value ->> 'class', 1)
		 FROM json_each(${made})`
	);
	await change(
		db,
		sql`INSERT INTO hold (id, name, name_key, because, asked_by, scope, placed_on, placed_by) VALUES (1, 'Claim', 'claim', 'x', 'x', '{"mailboxId":9}', '2026-01-01', 'x')`
	);
	await change(
		db,
		sql`INSERT INTO hold_item (item_id, hold_id) SELECT value ->> 'id', 1 FROM json_each(${made}) WHERE value ->> 'held' = 1`
	);
	await recountWeights(db);
}

/* All columns that a docket can change. */
const standing = ({ db }: Context) =>
	rows<Record<string, unknown>>(
		db,
		sql`SELECT id, state, folder_id, origin_folder_id, flagged, seen, kept, never_archived, for_digest, pause_id, docket_id, binned_on, own_class, own_retention_id,
			(SELECT count(*) FROM item_tag WHERE item_id = item.id) AS tags FROM item ORDER BY id`
	);

const item = fc.record<DecidedItem>({
	state: fc.constantFrom<ItemState>('live', 'archived', 'binned', 'destroyed'),
	receivedOn: fc.option(fc.constantFrom('0102-03-14', '2019-12-31', '2020-01-01', '2020-01-02', '2038-01-01'), {
		nil: undefined
	}),
	dateInDoubt: fc.boolean(),
	flagged: fc.boolean(),
	seen: fc.constantFrom(true, false, undefined),
	kept: fc.boolean(),
	neverArchived: fc.boolean(),
	paused: fc.boolean(),
	held: fc.boolean(),
	record: fc.boolean(),
	ended: fc.constant(false)
});

const OPTIONS: Partial<Record<Decision, DecisionOptions>> = {
	move: { folder: 'Elsewhere' },
	tag: { tag: 'Ramp' },
	untag: { tag: 'Ramp' },
	pause: { until: '2027-06-01', because: 'the season' },
	classify: { class: 'working', because: 'drafts' },
	retain: { terms: 'received destroy P1Y -' }
};
/* All decisions on messages that can be taken back; those that destroy have tests of their own (bin, retention). */
const DECIDED = DECISIONS.filter(
	(decision) => ruleOf(decision).about === 'messages' && ruleOf(decision).takenBack === 'always'
);

const SCOPES: ((ids: number[]) => { scope: Scope; about: Parameters<typeof effectOf>[3] })[] = [
	(ids) => ({ scope: { kind: 'items', ids }, about: {} }),
	() => ({
		scope: { kind: 'before', before: '2020-01-01', folderIds: undefined, folderPath: undefined },
		about: { cutoff: '2020-01-01' }
	}),
	() => ({ scope: { kind: 'query', query: 'before:2020-01-02', label: 'found' }, about: { dated: true } })
];

const line = fc.record({
	decision: fc.constantFrom(...DECIDED),
	scopeAt: fc.nat(SCOPES.length - 1),
	only: fc.option(fc.constantFrom<Protection>(...PROTECTIONS), { nil: undefined, freq: 4 }),
	leavesFlagged: fc.boolean()
});

/* Whether an item is within a scope: written independently of the store. */
function isWithin(scope: Scope, { state, receivedOn }: DecidedItem): boolean {
	if (scope.kind === 'before') return state === 'live' || state === 'binned';
	return scope.kind !== 'query' || (receivedOn !== undefined && receivedOn < '2020-01-02');
}

describe('the store decides as core/docket does', () => {
	it('over generated items and dockets of several lines; taken back, everything is as before, but nothing held goes into the bin', async () => {
		await fc.assert(
			fc.asyncProperty(
				fc.array(item, { minLength: 1, maxLength: 40 }),
				fc.array(line, { minLength: 1, maxLength: 4 }),
				async (items, lines) => {
					const context = await openOffice();
					await fill(context, items);
					const ids = items.map((_, n) => n + 1);
					const decided = lines.map(({ decision, scopeAt, only, leavesFlagged }) => {
						const options = {
							...OPTIONS[decision],
							...(only ? { only } : {}),
							...(leavesFlagged ? { leavesFlagged } : {})
						};
						const { scope, about } = (SCOPES[scopeAt] as (typeof SCOPES)[number])(ids);
						return { decision, options, scope, about };
					});
					const before = await standing(context);
					const docket = await prepareDocket(context, { mailboxId: 1, lines: decided as Decided[] });

					// the rule, item by item
					const claims = items.map((made) =>
						decided.flatMap(({ decision, options, scope, about }, at) =>
							isWithin(scope, made) && effectOf(decision, made, options, about) === 'changes' ? [at] : []
						)
					);
					const kept = claims.map((of) =>
						of.filter(
							(at) =>
								!of.some((other) => {
									if (other === at) return false;
									const [first, second] = [Math.min(at, other), Math.max(at, other)];
									const wins = winner(decided[first] as Decided, decided[second] as Decided);
									return wins !== undefined && (wins === 'earlier' ? first : second) === other;
								})
						)
					);
					for (const [at, shown] of docket.lines.entries()) {
						const taken = items.filter((_, n) => kept[n]?.includes(at));
						expect([shown.messages, shown.flagged]).toEqual([
							taken.length,
							taken.filter(({ flagged }) => flagged).length
						]);
						for (const { reason, messages } of shown.left) {
							if (reason === 'outranked') continue;
							const of = items.filter(
								(made) =>
									isWithin(shown.scope, made) &&
									effectOf(shown.decision, made, shown.options, decided[at]?.about) === reason
							);
							expect(of.length).toBe(messages);
						}
					}

					await carryOut(context, { id: docket.id, expected: docket });
					const after = await standing(context);
					after.forEach(
						(
							{
								state,
								flagged,
								seen,
								kept: isKept,
								never_archived,
								for_digest,
								pause_id,
								tags,
								own_class,
								own_retention_id
							},
							n
						) => {
							const of = (kept[n] ?? []).map((at) => decided[at]?.decision);
							const was = items[n] as DecidedItem;
							const place = of.find((decision) => decision && ruleOf(decision).to !== undefined);
							const states = {
								archive: 'archived',
								arrange: 'archived',
								restore: 'live',
								move: 'live',
								delete: 'binned'
							};
							expect(state).toBe(states[place as keyof typeof states] ?? was.state);
							expect(flagged).toBe(of.includes('flag') ? 1 : of.includes('unflag') ? 0 : Number(was.flagged));
							expect(isKept).toBe(of.includes('keep') ? 1 : of.includes('release') ? 0 : Number(was.kept));
							const isNever = of.includes('never-archive')
								? 1
								: of.includes('allow-archiving')
									? 0
									: Number(was.neverArchived);
							expect(never_archived).toBe(isNever);
							expect(for_digest).toBe(Number(of.includes('fold')));
							const wasSeen = was.seen === undefined ? null : Number(was.seen);
							expect(seen).toBe(of.includes('read') ? 1 : of.includes('unread') ? 0 : wasSeen);
							expect(tags).toBe(Number(of.includes('tag')));
							const wasPaused = was.paused ? 1 : 2;
							if (of.includes('pause')) expect(pause_id).toBeGreaterThan(2);
							else expect(pause_id).toBe(of.includes('resume') ? null : wasPaused);
							// a moved record stays one
							expect(own_class).toBe(of.includes('classify') ? 2 : was.record ? 3 : null);
							expect(own_retention_id !== null).toBe(of.includes('retain'));
						}
					);
					expect(await compareWeights(context.db)).toBe(0);

					await takeBack(context, { id: docket.id });
					const PLACE = ['state', 'folder_id', 'origin_folder_id', 'docket_id', 'binned_on'];
					const placeOf = (of: Record<string, unknown> = {}) =>
						Object.fromEntries(PLACE.map((column) => [column, of[column]]));
					expect(await standing(context)).toEqual(
						// held mail does not go back into the bin
						before.map((was, n) => (items[n]?.held && was.state === 'binned' ? { ...was, ...placeOf(after[n]) } : was))
					);
					expect(await compareWeights(context.db)).toBe(0);
					await context.db.destroy();
				}
			),
			{ numRuns: 40 }
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
		// the state after a crash: one transaction done, the next not begun
		const crash = new AbortController();
		const cut = await carryOut(
			{ ...context, signal: crash.signal, report: () => crash.abort() },
			{ id: draft.id, expected: draft }
		);
		expect(cut).toMatchObject({ finished: false, messages: BATCH_ITEMS });
		expect(await compareWeights(context.db)).toBe(0);
		const done = await carryOut(context, { id: draft.id });
		expect(done).toMatchObject({ finished: true, messages: MANY, bytes: draft.bytes, left: [] });
		expect(await row(context.db, sql`SELECT count(*) AS n FROM item WHERE state = 'archived'`)).toEqual({ n: MANY });
		expect(await compareWeights(context.db)).toBe(0);
		// a server that ended before it noted the end of the job goes on with it
		expect(await carryOut({ ...context, resumes: true }, { id: draft.id })).toMatchObject({
			finished: true,
			messages: MANY,
			byThisCall: { messages: 0 }
		});
		await expect(carryOut(context, { id: draft.id })).rejects.toThrow('was carried out already');
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
		const taken = { finished: true, messages: BATCH_ITEMS, left: [] };
		expect(await takeBack(context, { id: draft.id })).toMatchObject(taken);
		expect(await takeBack({ ...context, resumes: true }, { id: draft.id })).toMatchObject(taken);
		await expect(takeBack(context, { id: draft.id })).rejects.toThrow('nothing to take back');
		expect(
			await row(
				context.db,
				sql`SELECT count(*) AS n FROM item WHERE state = 'live' AND docket_id IS NULL AND folder_id = 1 AND origin_folder_id IS NULL`
			)
		).toEqual({ n: BATCH_ITEMS + 2_000 });
		expect(await compareWeights(context.db)).toBe(0);
	});

	it('counts by the index, without reading items', async () => {
		const context = await openOffice();
		await fill(context, many(10));
		const plan = await rows<{ detail: string }>(
			context.db,
			sql`EXPLAIN QUERY PLAN SELECT count(*), sum(bytes), count(DISTINCT folder_id) FROM item WHERE item.mailbox_id = 1 AND item.state IN ('live', 'binned') AND item.state = 'live' AND item.date_in_doubt = 0 AND item.received_on < '2020-01-01'`
		);
		expect(plan.map(({ detail }) => detail).join()).toContain('COVERING INDEX item_by_date');
	});
});
