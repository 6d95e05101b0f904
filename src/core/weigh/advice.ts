import { type CalendarDate, monthsBefore, showDate } from '../calendar.ts';
import type { Weight } from './tree.ts';
import { showBytes, showMessages, showShare } from './units.ts';

/** Usual default age for archiving, in months (common practice). */
export const USUAL_AGE_MONTHS = 24;

/** The cutoff date that is proposed first: the first of the month, 24 months ago (common practice). */
export function usualCutoff(today: CalendarDate): CalendarDate {
	return `${monthsBefore(today, USUAL_AGE_MONTHS).slice(0, 7)}-01`;
}

/** Something that would free room, with its exact gain. */
export interface Relief extends Weight {
	kind: 'archive-old' | 'empty-bin';
}

/** What is known of a mailbox for advice. */
export interface AdviceFacts {
	cutoff: CalendarDate;
	/** Live mail received before the cutoff date. */
	old: Weight;
	/** What lies in the bin. */
	bin: Weight;
	/** Live and binned: what counts against the quota. */
	total: Weight;
}

/** What would free most, or undefined where nothing would. */
export function bestRelief({ old, bin }: AdviceFacts): Relief | undefined {
	const reliefs: Relief[] = [
		{ kind: 'archive-old', ...old },
		{ kind: 'empty-bin', ...bin }
	];
	return reliefs.filter(({ bytes }) => bytes > 0).sort((a, b) => b.bytes - a.bytes)[0];
}

/** The advice as a sentence. */
export function adviceSentence(facts: AdviceFacts): string {
	const { cutoff, total } = facts;
	if (total.messages === 0) return 'There is no mail in this mailbox.';
	const best = bestRelief(facts);
	if (!best) return `Nothing here was received before ${showDate(cutoff)}, and the bin is empty.`;
	const gain = `${showBytes(best.bytes)}, ${showShare(best.bytes, total.bytes)} of the mailbox`;
	if (best.kind === 'empty-bin') return `What would free most: ${showMessages(best.messages)} in the bin (${gain}).`;
	return `What would free most: archiving the ${showMessages(best.messages)} received before ${showDate(cutoff)} (${gain}).`;
}
