import { type CalendarDate, daysAfter, daysBetween, showDate } from '../calendar.ts';
import { showCount, showMessages } from '../weigh/units.ts';

/** How often a digest is made. */
export const DIGEST_RHYTHMS = ['day', 'week'] as const;
export type DigestRhythm = (typeof DIGEST_RHYTHMS)[number];

/** A message in a digest, as the summary names it. */
export interface DigestEntry {
	/** A list, or the sender of a single message. */
	list: string;
	isList: boolean;
	subject: string;
	from: string;
	receivedOn: CalendarDate;
}

/**
 * The last day of a digest made today: yesterday, as today may still bring mail; undefined if none is due.
 *
 * @param last the last day of the digest before this one; else the day before the first list was folded
 */
export function digestDay(rhythm: DigestRhythm, last: CalendarDate, today: CalendarDate): CalendarDate | undefined {
	const upTo = daysAfter(today, -1);
	return daysBetween(last, upTo) >= (rhythm === 'day' ? 1 : 7) ? upTo : undefined;
}

/* Where single messages are among them, all are called senders. */
function counted(entries: readonly DigestEntry[]): string {
	const count = new Set(entries.map(({ list }) => list)).size;
	const word = entries.every(({ isList }) => isList) ? 'list' : 'sender';
	return `${showCount(count)} ${word}${count === 1 ? '' : 's'}`;
}

/** The subject of a digest. */
export function digestSubject(day: CalendarDate, entries: readonly DigestEntry[]): string {
	return `Digest of ${counted(entries)}, ${showDate(day)}: ${showMessages(entries.length)}`;
}

/** The summary before the messages: each with its number, list by list. */
export function digestText(mailbox: string, day: CalendarDate, entries: readonly DigestEntry[]): string {
	const lists = new Map<string, DigestEntry[]>();
	for (const entry of entries) lists.set(entry.list, [...(lists.get(entry.list) ?? []), entry]);
	const lines = [
		`Digest for ${mailbox}, up to ${showDate(day)}`,
		`${showMessages(entries.length)} of ${counted(entries)}.`
	];
	let number = 0;
	for (const [list, of] of lists) {
		lines.push('', `${list} (${showCount(of.length)})`);
		for (const { subject, from, receivedOn } of of)
			lines.push(`  ${++number}. ${subject || '(no subject)'} – ${from}, ${showDate(receivedOn)}`);
	}
	lines.push(
		'',
		'They follow in full, in this order. Each single issue is still in this mailbox, where it can be found.',
		''
	);
	return lines.join('\n');
}
