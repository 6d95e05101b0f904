import { type CalendarDate, daysBetween, showDate } from '../calendar.ts';
import { showBytes, showCount, showShare } from './units.ts';

/** When people want to be warned of a quota. */
export interface WarningLimits {
	/** Shares of the quota in per cent, rising. */
	shares: readonly number[];
	/** This many days before the day on which it will be full. */
	days: number;
}

/** The usual limits, until the office sets its own. */
export const USUAL_LIMITS: WarningLimits = { shares: [80, 90, 100], days: 30 };

/** What is known of a mailbox and its quota. */
interface Filling {
	bytes: number;
	/** Undefined: there is none. */
	quotaBytes: number | undefined;
	/** The day on which it will be full at the present rate. */
	reachedOn: CalendarDate | undefined;
	/** What its mail server counts, where it lives on one that says so. */
	server?: { host: string; quotaUsed: number; quotaLimit: number } | undefined;
}

/** The highest of the shares that is reached; undefined: none. */
export function shareReached(
	bytes: number,
	quotaBytes: number | undefined,
	shares: readonly number[]
): number | undefined {
	if (!quotaBytes) return undefined;
	return shares.filter((share) => bytes * 100 >= share * quotaBytes).at(-1);
}

/**
 * What is to be said of how full a mailbox is: the share that it has reached, the day on which it will be full if that is
 * near, and what its mail server counts if that is fuller.
 *
 * @returns sentences, none where there is nothing to be warned of
 */
export function quotaWarnings(
	{ bytes, quotaBytes, reachedOn, server }: Filling,
	{ shares, days }: WarningLimits,
	today: CalendarDate
): string[] {
	const warnings: string[] = [];
	const reached = shareReached(bytes, quotaBytes, shares);
	if (reached !== undefined && quotaBytes !== undefined) {
		const of = `${showBytes(bytes)} of ${showBytes(quotaBytes)}`;
		warnings.push(
			bytes > quotaBytes
				? `This mailbox is over its quota: ${of}.`
				: `This mailbox is ${showShare(bytes, quotaBytes)} full: ${of}. The warning is set at ${showShare(reached, 100)}.`
		);
	}
	const left = reachedOn === undefined ? Infinity : daysBetween(today, reachedOn);
	if (reachedOn !== undefined && left <= days)
		warnings.push(
			`It will be full on ${showDate(reachedOn)}, in ${showCount(left)} ${left === 1 ? 'day' : 'days'}, at this rate.`
		);
	const there = server && shareReached(server.quotaUsed, server.quotaLimit, shares);
	if (server && there !== undefined && there > (reached ?? 0))
		warnings.push(
			`${server.host} counts ${showBytes(server.quotaUsed)} of ${showBytes(server.quotaLimit)}: ${showShare(server.quotaUsed, server.quotaLimit)} full.`
		);
	return warnings;
}

/**
 * Limits as a person writes them.
 *
 * @param shares per cent, as in `80, 90 100`
 * @returns the limits, or what is wrong as a sentence without its full stop
 */
export function readLimits(shares: string, days: number): WarningLimits | string {
	const read = shares.split(/[\s,;%]+/).flatMap((word) => (word === '' ? [] : [Number(word)]));
	if (read.some((share) => !Number.isInteger(share) || share < 1 || share > 100))
		return 'Write shares as whole numbers from 1 to 100, as in 80, 90, 100';
	if (!Number.isInteger(days) || days < 0 || days > 366) return 'Write the days as a whole number from 0 to 366';
	return { shares: [...new Set(read)].sort((a, b) => a - b), days };
}
