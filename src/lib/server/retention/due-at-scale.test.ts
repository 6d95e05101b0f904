import fc from 'fast-check';
import { DateTime } from 'luxon';
import { expect, it } from 'vitest';
import { periodText, readPeriod } from '../../../core/retention/periods.ts';
import { readTerms } from '../../../core/retention/terms.ts';
import { compareDue } from '../standing/due-store.ts';
import { change, rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { recountWeights } from '../mail/weights-store.ts';
import { openOffice } from '../testing/office.ts';
import { recalculateDue } from '../standing/apply-retention.ts';
import { setFinancialYear } from '../archive/archiving.ts';
import type { Context } from '../context/context.ts';
import { type RetentionGiven, setRetention } from './retain.ts';
import { saveSeries } from './schedule.ts';

/*
 * Settings as a person makes them, and the expected result for each item: computed independently, with dates by
 * luxon, which Kovrel does not use.
 */
const TERMS = [
	'received archive P24M -',
	'received destroy P1Y6M10D -',
	'calendar-year destroy P3Y -',
	'financial-year archive-destroy P7Y P2Y',
	'thread destroy P1M -',
	'closed review P6Y -',
	'received keep - -'
];
const SERIES = 'financial-year archive-destroy P5Y P1Y';
/* The classes of a new office, in the order of their numbers. */
const CLASSES = ['transitory', 'working', 'record'] as const;
type ClassWord = (typeof CLASSES)[number];
const numberOf = (word: ClassWord) => CLASSES.indexOf(word) + 1;

const FOLDERS = ['A', 'A/B', 'A/B/C', 'D', 'D/B'];

interface MadeItem {
	folder: number;
	state: 'live' | 'archived' | 'binned';
	receivedOn: string;
	doubt: boolean;
	thread: number;
	ownClass: ClassWord | undefined;
	own: number | 'series' | undefined;
}
interface Settings {
	firstMonth: number;
	folders: { given: number | 'series' | undefined; class: ClassWord | undefined; closedOn: string | undefined }[];
	/** For folders called B. */
	named: number | undefined;
	default: number | undefined;
	transitory: number | undefined;
	working: number | undefined;
}

const someDay = fc
	.date({ min: new Date('1990-01-01'), max: new Date('2026-11-25'), noInvalidDate: true })
	.map((date) => date.toISOString().slice(0, 10));
const someTerms = fc.option(fc.nat(TERMS.length - 1), { nil: undefined });
const someClass = fc.option(fc.constantFrom(...CLASSES), { nil: undefined, freq: 2 });
const given = fc.oneof(someTerms, fc.constant('series' as const));
const item = fc.record<MadeItem>({
	folder: fc.nat(FOLDERS.length - 1),
	state: fc.constantFrom('live', 'archived', 'binned'),
	receivedOn: someDay,
	doubt: fc.boolean(),
	thread: fc.integer({ min: 1, max: 4 }),
	ownClass: someClass,
	own: given
});
const settings = fc.record<Settings>({
	firstMonth: fc.integer({ min: 1, max: 12 }),
	folders: fc.array(fc.record({ given, class: someClass, closedOn: fc.option(someDay, { nil: undefined }) }), {
		minLength: FOLDERS.length,
		maxLength: FOLDERS.length
	}),
	named: someTerms,
	default: someTerms,
	transitory: someTerms,
	working: someTerms
});

const textOf = (of: number | 'series') => (of === 'series' ? SERIES : (TERMS[of] as string));

/* The retention of an item: its terms as text, and its class. */
function expected(
	made: MadeItem,
	set: Settings
): { terms: string | undefined; class: ClassWord; closedOn: string | undefined } {
	const path = FOLDERS[made.folder] as string;
	// from the folder upwards
	const above = FOLDERS.filter((other) => path === other || path.startsWith(`${other}/`)).sort(
		(a, b) => b.length - a.length
	);
	let ofFolder: string | undefined;
	let ofClass: ClassWord | undefined;
	let closedOn: string | undefined;
	for (const folder of above) {
		const own = set.folders[FOLDERS.indexOf(folder)];
		const isB = folder.endsWith('B');
		ofFolder ??=
			own?.given !== undefined ? textOf(own.given) : isB && set.named !== undefined ? textOf(set.named) : undefined;
		ofClass ??= own?.class;
		closedOn ??= own?.closedOn;
	}
	const isClass = made.ownClass ?? ofClass ?? 'transitory';
	const fallback = isClass === 'transitory' ? set.transitory : isClass === 'working' ? set.working : undefined;
	const byFolder = ofFolder ?? (set.default === undefined ? undefined : textOf(set.default));
	const own = made.own === undefined ? undefined : textOf(made.own);
	const byClass = fallback === undefined ? undefined : textOf(fallback);
	// a record's series outranks the item's own period
	const order = isClass === 'record' && made.own !== 'series' ? [byFolder, own, byClass] : [own, byFolder, byClass];
	return { terms: order.find((one) => one !== undefined), class: isClass, closedOn };
}

/* The disposition and its day, by luxon. */
function dueOf(made: MadeItem, all: readonly MadeItem[], set: Settings): string | null {
	const { terms: text, closedOn } = expected(made, set);
	if (text === undefined || made.doubt || made.state === 'binned') return null;
	const { trigger, disposition, period, archiveAfter } = readTerms(text);
	if (!period) return null;
	const day = (iso: string) => DateTime.fromISO(iso, { zone: 'utc' });
	const threadLast = all
		.filter((other) => other.thread === made.thread && !other.doubt)
		.map(({ receivedOn }) => receivedOn)
		.sort()
		.at(-1) as string;
	const received = day(made.receivedOn);
	const began = {
		received: () => received,
		thread: () => day(threadLast),
		closed: () => (closedOn === undefined ? undefined : day(closedOn)),
		'calendar-year': () => received.startOf('year').plus({ years: 1 }),
		'financial-year': () => {
			const first = received.set({ day: 1, month: set.firstMonth });
			return first <= received ? first.plus({ years: 1 }) : first;
		}
	}[trigger]();
	const end = began?.plus(period).toISODate();
	const archive = archiveAfter && made.state === 'live' ? received.plus(archiveAfter).toISODate() : undefined;
	if (disposition === 'archive-destroy' && archive && (!end || archive < end)) return `${archive} archive`;
	if (!end || (disposition === 'archive' && made.state === 'archived')) return null;
	return `${end} ${disposition === 'archive-destroy' ? 'destroy' : disposition}`;
}

async function fill(context: Context, items: readonly MadeItem[], set: Settings): Promise<void> {
	const { db } = context;
	await change(db, sql`INSERT INTO mailbox (id, name, name_key, made_at) VALUES (1, 'Office', 'office', '')`);
	const folder = (id: number, path: string, parent: number | null, tree: string) =>
		change(
			db,
			sql`INSERT INTO folder (id, mailbox_id, tree, parent_id, name, name_key, path) VALUES (${id}, 1, ${tree}, ${parent}, ${path.slice(path.lastIndexOf('/') + 1)}, ${path.slice(path.lastIndexOf('/') + 1).toLowerCase()}, ${path})`
		);
	for (const [at, path] of FOLDERS.entries()) {
		const parent = FOLDERS.indexOf(path.split('/').slice(0, -1).join('/'));
		await folder(at + 1, path, parent < 0 ? null : parent + 1, 'mailbox');
	}
	await folder(9, 'Trash', null, 'mailbox');
	await folder(10, 'All mail', null, 'archive');
	await change(db, sql`INSERT INTO organisation (id, domain) VALUES (1, 'x.example')`);
	await change(
		db,
		sql`INSERT INTO correspondent (id, address, name, organisation_id) VALUES (1, 'a@x.example', '', 1)`
	);
	const { firstMonth } = set;
	await setFinancialYear(context, { month: firstMonth });
	const given = (of: number | 'series'): RetentionGiven => (of === 'series' ? { series: 'S' } : { terms: textOf(of) });
	const { trigger, disposition, period, archiveAfter } = readTerms(SERIES);
	const written = (of: typeof period) => periodText(of ?? (readPeriod('P1D') as NonNullable<typeof of>));
	await saveSeries(context, {
		fields: {
			code: 'S',
			title: 's',
			trigger,
			disposition,
			period: written(period),
			archive_after: written(archiveAfter)
		}
	});
	// so that each series and period has a number for the items below
	const numbers = new Map<number | 'series', number>();
	for (const of of ['series', ...TERMS.keys()] as (number | 'series')[]) {
		await setRetention(context, { wish: { kind: 'default', mailboxId: 1, retention: given(of) } });
		const [found] = await rows<{ id: number }>(db, sql`SELECT retention_id AS id FROM mailbox`);
		numbers.set(of, found?.id as number);
	}
	const columns = items.map((made, n) => ({
		...made,
		id: n + 1,
		place: made.state === 'live' ? made.folder + 1 : made.state === 'binned' ? 9 : 10,
		origin: made.state === 'live' ? null : made.folder + 1,
		ownClass: made.ownClass ? numberOf(made.ownClass) : null,
		own: made.own === undefined ? null : numbers.get(made.own)
	}));
	const json = JSON.stringify(columns);
	await change(
		db,
		sql`INSERT INTO content (id, sha256, raw_bytes, stored_bytes, codec, data)
		 SELECT value ->> 'id', cast(printf('%032d', value ->> 'id') AS BLOB), 0, 0, 'identity', x'' FROM json_each(${json})`
	);
	await change(
		db,
		sql`INSERT INTO message (id, content_id, message_id, reference_ids, subject, from_name, from_address, recipients, list_id, importance, attachments)
		 SELECT value ->> 'id', value ->> 'id', '', '[]', '', '', '', '', '', 0, '[]' FROM json_each(${json})`
	);
	await change(
		db,
		sql`INSERT INTO item (id, mailbox_id, message_id, state, folder_id, origin_folder_id, imported_folder_id, received_on, date_in_doubt, bytes,
			correspondent_id, organisation_id, thread_id, own_class, own_retention_id)
		 SELECT value ->> 'id', 1, value ->> 'id', value ->> 'state', value ->> 'place', value ->> 'origin', 1, value ->> 'receivedOn',
			value ->> 'doubt', 10, 1, 1, value ->> 'thread', value ->> 'ownClass', value ->> 'own' FROM json_each(${json})`
	);
	await recountWeights(db);
	const because = 'generated';
	for (const [at, { given: of, class: recordClass, closedOn }] of set.folders.entries())
		await setRetention(context, {
			wish: {
				kind: 'folders',
				folderIds: [at + 1],
				retention: of === undefined ? 'none' : given(of),
				class: recordClass ?? null,
				closedOn: closedOn ?? null
			},
			because
		});
	if (set.named !== undefined)
		await setRetention(context, { wish: { kind: 'named', name: 'b', retention: given(set.named) }, because });
	const orNone = (of: number | undefined): RetentionGiven => (of === undefined ? 'none' : given(of));
	await setRetention(context, { wish: { kind: 'default', mailboxId: 1, retention: orNone(set.default) }, because });
	for (const of of ['transitory', 'working'] as const)
		await setRetention(context, { wish: { kind: 'class', class: of, retention: orNone(set[of]) }, because });
}

it('each item is due as its settings have it, over generated trees of settings and items', async () => {
	await fc.assert(
		fc.asyncProperty(fc.array(item, { minLength: 1, maxLength: 60 }), settings, async (items, set) => {
			const context = await openOffice();
			await fill(context, items, set);
			await recalculateDue(context);
			const found = await rows<{ due: string | null; class: number }>(
				context.db,
				sql`SELECT due_on || ' ' || due_action AS due, class FROM item ORDER BY id`
			);
			expect(found).toEqual(
				items.map((made) => ({ due: dueOf(made, items, set), class: numberOf(expected(made, set).class) }))
			);
			expect(await compareDue(context.db)).toBe(0);
			await context.db.destroy();
		}),
		{ numRuns: 25 }
	);
});
