import { quotedValue } from '../search/quoted-value.ts';
import { type CalendarDate, monthsBefore } from '../calendar.ts';
import { ATTACHMENT_KINDS } from '../message/kinds.ts';
import { MAIL_KIND_NAMES, MAIL_KINDS } from '../message/mail-kind.ts';
import { SIZE_BANDS } from '../weigh/bands.ts';
import { showCount } from '../weigh/units.ts';

/** All groupings of mail, each with its name. */
export const GROUPINGS = {
	organisation: 'organisation',
	correspondent: 'correspondent',
	tld: 'top-level domain',
	list: 'list',
	thread: 'thread',
	folder: 'folder',
	year: 'year received',
	month: 'month received',
	size: 'size',
	attachment: 'kind of attachment',
	tag: 'tag',
	addressed: 'to whom',
	unread: 'unread for',
	kind: 'kind of mail'
} as const;
export type Grouping = keyof typeof GROUPINGS;

/** A lot as the sheet shows it. */
export interface Lot {
	/** What the items share: a number of a table, a date, a word. Empty: not known. */
	key: string;
	label: string;
	messages: number;
	bytes: number;
	oldest: CalendarDate | null;
	newest: CalendarDate | null;
	unread: number;
	/** When somebody last answered one of them. */
	answered: CalendarDate | null;
}

/** The orders of lots. */
export const LOT_SORTS = ['bytes', 'messages', 'label', 'oldest', 'newest', 'unread', 'answered'] as const;
export type LotSort = (typeof LOT_SORTS)[number];

/* How a message addresses the owner; the order is that of the stored numbers. */
/** How a message is addressed to the owner of its mailbox, by its number. */
export const ADDRESSED_NAMES = [
	'not named (a blind copy, or not known)',
	'to this mailbox alone',
	'to this mailbox among others',
	'this mailbox copied in',
	'by a list'
];

/** The age bands of unread mail, in months. */
const UNREAD_AGES = [1, 3, 6, 12, 24] as const;

/** The first day of each band of {@link unreadLabels}, the newest first. */
export function unreadBandStarts(today: CalendarDate): CalendarDate[] {
	return UNREAD_AGES.map((months) => monthsBefore(today, months));
}

const unreadLabels = [
	'read',
	'unread for less than a month',
	...UNREAD_AGES.map((months) => `unread for ${months === 1 ? 'a month' : `${months} months`} and more`)
];

/** The label of a lot whose key is no name in a table. */
export function labelOf(by: Grouping, key: string): string {
	const at = Number(key);
	switch (by) {
		case 'size':
			return SIZE_BANDS[at]?.name ?? key;
		case 'attachment':
			return key === '' ? 'no attachment' : (ATTACHMENT_KINDS[at] ?? key);
		case 'addressed':
			return ADDRESSED_NAMES[at] ?? key;
		case 'unread':
			return key === '' ? 'unread, date in doubt' : (unreadLabels[at] ?? key);
		case 'kind':
			return MAIL_KIND_NAMES[MAIL_KINDS[at] ?? 'person'];
		case 'year':
		case 'month':
			return key || 'date in doubt';
		case 'tld':
			return key === '' ? '(no domain)' : `.${key}`;
		case 'list':
			return 'from no list';
		case 'tag':
			return 'without a tag';
		case 'thread':
			return '(no subject)';
		default:
			return '(no address)';
	}
}

const numeric: readonly LotSort[] = ['bytes', 'messages', 'unread'];

/** Compares two lots for sorting; of two equal ones, the heavier and then the name decides. */
export function compareLots(sort: LotSort, descending: boolean): (a: Lot, b: Lot) => number {
	const sign = descending ? -1 : 1;
	const collator = new Intl.Collator('en', { numeric: true, sensitivity: 'base' });
	return (a, b) => {
		const first = numeric.includes(sort)
			? (a[sort] as number) - (b[sort] as number)
			: sort === 'label'
				? collator.compare(a.label, b.label)
				: (a[sort] ?? '') < (b[sort] ?? '')
					? -1
					: (a[sort] ?? '') > (b[sort] ?? '')
						? 1
						: 0;
		return sign * first || b.bytes - a.bytes || collator.compare(a.label, b.label) || (a.key < b.key ? -1 : 1);
	};
}

const listedNames = (labels: readonly string[], count: number, noun: string) =>
	labels.length === count && count <= 3 ? labels.join(', ') : `${showCount(count)} ${noun}`;

/**
 * The messages of some lots, in words that follow "messages": `from 3 organisations`. Threads are counted, never
 * named: a docket's words stay in the ledger after the mail is destroyed.
 *
 * @param labels of the lots, as far as they are few
 * @param count how many lots; undefined: all that match
 */
export function lotsLabel(by: Grouping, labels: readonly string[], count: number | undefined): string {
	if (count === undefined) return '';
	const named = (noun: string, one: string) => listedNames(labels, count, count === 1 ? one : noun);
	switch (by) {
		case 'organisation':
			return `from ${named('organisations', 'organisation')}`;
		case 'correspondent':
			return `from ${named('addresses', 'address')}`;
		case 'tld':
			return `from ${named('top-level domains', 'top-level domain')}`;
		case 'list':
			return `of ${count === 1 ? 'the list ' : ''}${named('lists', 'list')}`;
		case 'thread':
			return `in ${showCount(count)} ${count === 1 ? 'thread' : 'threads'}`;
		case 'folder':
			return `in ${named('folders', 'folder')}`;
		case 'year':
		case 'month':
			return `received in ${named(`${by}s`, by)}`;
		case 'size':
			return `of ${named('sizes', 'size')}`;
		case 'attachment':
			return `with ${named('kinds of attachment', 'kind of attachment')}`;
		case 'tag':
			return `tagged ${named('tags', 'tag')}`;
		case 'kind':
			return `of the ${count === 1 ? 'kind' : 'kinds'} ${named('kinds', 'kind')}`;
		default:
			return labels.length === count ? labels.join(' or ') : `of ${showCount(count)} lots`;
	}
}

/**
 * A lot as a search that also finds what comes later (core/search/query); undefined: what the lot shares is nothing that
 * mail to come can be searched by.
 *
 * @param key of the lot, and its label
 */
export function lotQuery(by: Grouping, key: string, label: string): string | undefined {
	if (key === '') return undefined;
	switch (by) {
		case 'organisation':
		case 'folder':
		case 'tag':
			return quotedValue(label, by);
		case 'correspondent':
			return label.includes('@') ? quotedValue(label, 'address') : undefined;
		case 'thread':
			return `thread:${key}`;
		case 'kind':
			return MAIL_KINDS[Number(key)] && `kind:${MAIL_KINDS[Number(key)]}`;
		case 'attachment':
			return ATTACHMENT_KINDS[Number(key)] && `attachment:${ATTACHMENT_KINDS[Number(key)]}`;
		default:
			return undefined;
	}
}
