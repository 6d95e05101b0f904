import type { WeighedBy } from '$lib/server/weigh/index.ts';

/** The groupings of weight, as headings. */
export const WEIGHED_BY_NAMES: Record<WeighedBy, string> = {
	year: 'Year received',
	month: 'Month received',
	organisation: 'Organisation',
	address: 'Address',
	list: 'List',
	size: 'Size of the message',
	attachment: 'Kind of attachment'
};

/** What a row without a name is called. */
export const NAMELESS: Partial<Record<WeighedBy, string>> = {
	year: 'Date in doubt',
	month: 'Date in doubt',
	organisation: 'no address',
	address: 'no address'
};

/** Whether each message counts in exactly one row, so that the rows add up. */
export const isPartition = (by: WeighedBy) => by === 'year' || by === 'month' || by === 'size';
