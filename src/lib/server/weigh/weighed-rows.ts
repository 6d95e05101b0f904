import { daysAfter } from '../../../core/calendar.ts';
import { quotedValue } from '../../../core/search/quoted-value.ts';
import { SIZE_BANDS } from '../../../core/weigh/bands.ts';
import type { MonthWeight } from '../../../core/weigh/growth.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import type { Db } from '../database/index.ts';
import {
	type AheadKey,
	type NamedWeight,
	type Weighed,
	weightAheadBy,
	weightByAddress,
	weightByBand,
	weightByKind,
	weightByList,
	weightByMonth,
	weightByOrganisation
} from '../mail/index.ts';
import type { Context } from '../context/index.ts';

/** A mailbox, with what is still on its way from its server. */
interface OnTheWay {
	id: number;
	ahead: Weight;
}

/** The groupings of a mailbox's weight, beside its folders. */
export const WEIGHED_BY = ['year', 'month', 'organisation', 'address', 'list', 'size', 'attachment'] as const;
export type WeighedBy = (typeof WEIGHED_BY)[number];

/** One row of the sheet. */
export interface WeighedRow extends Weight {
	/** Empty: date in doubt, no address. */
	key: string;
	label: string;
	unread: number;
	/** A search that finds exactly these messages. */
	query: string;
}

const ROWS_SHOWN = 500;

/* Weights of the same key as one; of the larger ones, its name. */
function addedUp(rows: readonly NamedWeight[]): NamedWeight[] {
	const sums = new Map<string, NamedWeight>();
	for (const { key, label, messages, bytes, unread } of rows) {
		const sum = sums.get(key) ?? { key, messages: 0, bytes: 0, unread: 0 };
		sums.set(key, {
			...{ key, label: sum.label || label },
			messages: sum.messages + messages,
			bytes: sum.bytes + bytes,
			unread: sum.unread + unread
		});
	}
	return [...sums.values()];
}

const byKey = (a: NamedWeight, b: NamedWeight) => (a.key < b.key ? -1 : a.key > b.key ? 1 : 0);
const byWeight = (a: NamedWeight, b: NamedWeight) => b.bytes - a.bytes || byKey(a, b);

/* The mail of live mailboxes that is here and that is on its way, in parts. */
async function withAhead(
	db: Db,
	mailboxes: readonly OnTheWay[],
	by: AheadKey,
	here: readonly NamedWeight[]
): Promise<NamedWeight[]> {
	const awaited = mailboxes.filter(({ ahead }) => ahead.messages > 0).map(({ id }) => id);
	if (awaited.length === 0) return [...here];
	const both = addedUp([...here, ...(await weightAheadBy(db, awaited, by))]);
	return both.sort(by === 'organisation' || by === 'address' ? byWeight : byKey).slice(0, ROWS_SHOWN);
}

const labelled = (rows: readonly NamedWeight[], query: (key: string) => string): WeighedRow[] =>
	rows.map(({ label, ...row }) => ({ ...row, label: label || row.key, query: query(row.key) }));

const byYear = (months: readonly NamedWeight[]): NamedWeight[] =>
	addedUp(months.map((month) => ({ ...month, key: month.key.slice(0, 4) })));

const bandsByName = (bands: Awaited<ReturnType<typeof weightByBand>>): NamedWeight[] =>
	bands.map(({ band, ...weight }) => ({ key: String(band), ...weight }));

/* The following month, as a query. */
const nextMonth = (month: string) => daysAfter(`${month}-28`, 4).slice(0, 7);

/** Rows of the weight of some mailboxes. Of many, the heaviest {@link ROWS_SHOWN}. */
export async function rowsBy({ db }: Context, mailboxes: readonly OnTheWay[], by: WeighedBy): Promise<WeighedRow[]> {
	const weighed: Weighed = { mailboxIds: mailboxes.map(({ id }) => id), states: 'quota' };
	const both = (key: AheadKey, here: readonly NamedWeight[]) => withAhead(db, mailboxes, key, here);
	switch (by) {
		case 'year':
			return labelled(byYear(await both('month', await weightByMonth(db, weighed))), (year) =>
				year ? `since:${year} before:${Number(year) + 1}` : 'undated'
			);
		case 'month':
			return labelled(await both('month', await weightByMonth(db, weighed)), (month) =>
				month ? `since:${month} before:${nextMonth(month)}` : 'undated'
			).reverse();
		case 'organisation':
			return labelled(await both('organisation', await weightByOrganisation(db, weighed, ROWS_SHOWN)), (domain) =>
				quotedValue(domain || 'none', 'organisation')
			);
		case 'address':
			return labelled(await both('address', await weightByAddress(db, weighed, ROWS_SHOWN)), (address) =>
				quotedValue(address || 'none', 'address')
			);
		case 'list':
			return labelled(await weightByList(db, weighed, ROWS_SHOWN), (identifier) =>
				quotedValue(`=${identifier}`, 'list')
			);
		case 'size':
			return (await both('size', bandsByName(await weightByBand(db, weighed)))).map(({ key, ...weight }) => {
				const band = Number(key);
				const { from, name } = SIZE_BANDS[band] as (typeof SIZE_BANDS)[number];
				const next = SIZE_BANDS[band + 1]?.from;
				const parts = [from > 0 ? `not smaller:${from}` : '', next ? `smaller:${next}` : ''];
				return { key, ...weight, label: name, query: parts.filter(Boolean).join(' ') };
			});
		case 'attachment':
			return (await weightByKind(db, weighed)).map(({ kind, ...weight }) => ({
				key: kind,
				label: kind === 'none' ? 'no attachment' : kind,
				query: kind === 'none' ? 'not attachment:any' : `attachment:${kind}`,
				...weight
			}));
	}
}

/** The weight of some mailboxes by month, without mail whose date is in doubt. */
export async function datedMonths(db: Db, mailboxes: readonly OnTheWay[]): Promise<MonthWeight[]> {
	const weighed: Weighed = { mailboxIds: mailboxes.map(({ id }) => id), states: 'quota' };
	return (await withAhead(db, mailboxes, 'month', await weightByMonth(db, weighed)))
		.filter(({ key }) => key !== '')
		.map(({ key, messages, bytes }) => ({ month: key, messages, bytes }));
}
