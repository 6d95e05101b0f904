import { type CalendarDate, daysAfter, daysBetween, monthsBefore, showDate } from '../calendar.ts';
import type { Weight } from './tree.ts';
import { showBytes } from './units.ts';

/** Mail received in a month that is still there. */
export interface MonthWeight extends Weight {
	/** `YYYY-MM` */
	month: string;
}

/** How fast a mailbox grows. */
export interface Growth {
	/** The average of the whole months considered. */
	bytesAMonth: number;
	/** How many whole months. */
	months: number;
	/** Undefined: no quota, no growth, or more than 50 years away. */
	quotaReachedOn: CalendarDate | undefined;
}

const LOOKED_AT = 12;
const DAYS_A_MONTH = 365.2425 / 12;

/**
 * How fast a mailbox grows, and when it reaches its quota at this rate: the average of the last twelve whole months, of
 * what was received in them and is still there.
 *
 * @param months oldest first; months without mail may be missing
 * @param bytes what the mailbox weighs now
 */
export function growthOf(
	months: readonly MonthWeight[],
	{ bytes, quotaBytes }: { bytes: number; quotaBytes: number | undefined },
	today: CalendarDate
): Growth {
	const first = months.find(({ month }) => month !== '')?.month;
	const thisMonth = today.slice(0, 7);
	const from = [monthsBefore(`${thisMonth}-01`, LOOKED_AT).slice(0, 7), first ?? thisMonth].sort().at(-1) as string;
	const lookedAt = months.filter(({ month }) => month >= from && month < thisMonth);
	const count = Math.max(1, Math.round(daysBetween(`${from}-01`, `${thisMonth}-01`) / DAYS_A_MONTH));
	const bytesAMonth = Math.round(lookedAt.reduce((sum, month) => sum + month.bytes, 0) / count);
	const room = quotaBytes === undefined ? undefined : quotaBytes - bytes;
	const days = room === undefined || bytesAMonth <= 0 ? undefined : (room / bytesAMonth) * DAYS_A_MONTH;
	return {
		bytesAMonth,
		months: count,
		quotaReachedOn: days === undefined || days < 0 || days > 50 * 365 ? undefined : daysAfter(today, Math.floor(days))
	};
}

/** The weight of a mailbox up to the end of a month. */
export interface GrowthPoint {
	/** `YYYY-MM` */
	month: string;
	bytes: number;
	/** Whether it is still to come, at the present rate. */
	isExpected: boolean;
}

const MONTHS_AHEAD = 36;

/**
 * The mail of a mailbox summed up by the month in which it was received, and how it goes on at the present rate until its
 * quota is reached.
 *
 * @param months oldest first; months without mail may be missing
 * @param ahead how many months are expected where the quota is not reached within them
 */
export function growthLine(
	months: readonly MonthWeight[],
	{ bytesAMonth, quotaReachedOn }: Growth,
	today: CalendarDate,
	ahead = 6
): GrowthPoint[] {
	const points: GrowthPoint[] = [];
	let bytes = 0;
	const byMonth = new Map(months.map((month) => [month.month, month.bytes]));
	const thisMonth = today.slice(0, 7);
	for (let month = months[0]?.month ?? thisMonth; month <= thisMonth; month = monthAfter(month)) {
		bytes += byMonth.get(month) ?? 0;
		points.push({ month, bytes, isExpected: false });
	}
	if (bytesAMonth <= 0) return points;
	const end = quotaReachedOn === undefined ? undefined : monthAfter(quotaReachedOn.slice(0, 7));
	let month = thisMonth;
	for (let n = 0; n < MONTHS_AHEAD && (end === undefined ? n < ahead : month < end); n++) {
		month = monthAfter(month);
		bytes += bytesAMonth;
		points.push({ month, bytes, isExpected: true });
	}
	return points;
}

const monthAfter = (month: string) => monthsBefore(`${month}-01`, -1).slice(0, 7);

/** How fast a mailbox grows, in words; empty where it does not. */
export function growthSentence({ bytesAMonth, quotaReachedOn }: Growth): string {
	if (bytesAMonth <= 0) return '';
	const reaches = quotaReachedOn ? ` and reaches its quota on ${showDate(quotaReachedOn)} at this rate` : '';
	return `It grows by ${showBytes(bytesAMonth)} a month${reaches}.`;
}
