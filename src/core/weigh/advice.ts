import { quotedValue } from '../search/quoted-value.ts';
import { type CalendarDate, monthsBefore, showDate } from '../calendar.ts';
import type { Weight } from './tree.ts';
import { showBytes, showMessages, showShare } from './units.ts';

/** Usual default age for archiving, in months (common practice). */
const USUAL_AGE_MONTHS = 24;
/** Age after which sent mail is archived, in months (common practice). */
export const SENT_AGE_MONTHS = 3;
/** From about this size people look for large messages (common practice). */
const WORTH_WORKING_ON_BYTES = 5e9;

/** Ages offered for a cutoff date, in months (common practice, rounded out). */
export const AGE_PRESETS = [
	{ months: 3, name: '3 months' },
	{ months: 6, name: '6 months' },
	{ months: 12, name: '12 months' },
	{ months: 24, name: '24 months' },
	{ months: 36, name: '3 years' },
	{ months: 60, name: '5 years' },
	{ months: 120, name: '10 years' }
] as const;

/** The cutoff date for an age in whole months: the first of that month. */
export function cutoffFor(today: CalendarDate, months: number): CalendarDate {
	return `${monthsBefore(today, months).slice(0, 7)}-01`;
}

/**
 * Cutoff dates by name: the day after the last calendar year, and after the last financial year where that is another.
 *
 * @param firstMonth of the financial year, 1 to 12
 */
export function namedCutoffs(today: CalendarDate, firstMonth: number): { name: string; cutoff: CalendarDate }[] {
	const year = Number(today.slice(0, 4));
	const month = String(firstMonth).padStart(2, '0');
	const began = Number(today.slice(5, 7)) >= firstMonth ? year : year - 1;
	return [
		{ name: 'end of last year', cutoff: `${year}-01-01` },
		...(firstMonth === 1 ? [] : [{ name: 'end of last financial year', cutoff: `${began}-${month}-01` }])
	];
}

/** The preset cutoff date: 24 months ago. */
export function usualCutoff(today: CalendarDate): CalendarDate {
	return cutoffFor(today, USUAL_AGE_MONTHS);
}

/** The selection of mail to be archived. */
export interface ArchivingSelection {
	before?: CalendarDate | undefined;
	folder?: string | undefined;
	/** A search that selects it. */
	query?: string | undefined;
	/** The search in words: `from the list Harbour Times`. */
	label?: string | undefined;
}

/** One way to free space, with its exact gain. */
export interface Suggestion extends Weight {
	/** The advice, in words. */
	what: string;
	/** How it is done: by archiving, or by emptying the bin. */
	wish: ArchivingSelection | 'empty-bin';
}

/** The facts of a mailbox that advice needs; weights are of live mail, exact. */
export interface AdviceFacts {
	/** Undefined: nothing may be archived. */
	old: { cutoff: CalendarDate; weight: Weight } | undefined;
	/** Folders with subfolders, before the same cutoff date. */
	oldByFolder: { path: string; weight: Weight }[];
	/** The folder of sent mail, before a cutoff date of its own. */
	sent: { path: string; cutoff: CalendarDate; weight: Weight } | undefined;
	lists: { identifier: string; name: string; weight: Weight }[];
	/** Messages of 1 MB and more. */
	large: Weight;
	/** The bin's content. */
	bin: Weight;
	/** Live and binned: what counts against the quota. */
	total: Weight;
}

/** Ways to free space, the largest gain first. */
export function suggestions(facts: AdviceFacts): Suggestion[] {
	const { old, oldByFolder, sent, lists, large, bin } = facts;
	const archiving: Suggestion[] = old
		? [
				{
					what: `Archive mail received before ${showDate(old.cutoff)}`,
					wish: { before: old.cutoff },
					...old.weight
				},
				...oldByFolder.map(({ path, weight }) => ({
					what: `Archive ${path} before ${showDate(old.cutoff)}`,
					wish: { before: old.cutoff, folder: path },
					...weight
				})),
				...(sent
					? [
							{
								what: `Archive ${sent.path} before ${showDate(sent.cutoff)}`,
								wish: { before: sent.cutoff, folder: sent.path },
								...sent.weight
							}
						]
					: []),
				...lists.map(({ identifier, name, weight }) => ({
					what: `Archive all of the list ${name || identifier}`,
					wish: { query: quotedValue(`=${identifier}`, 'list'), label: `of the list ${name || identifier}` },
					...weight
				})),
				{
					what: 'Archive messages of 1 MB and more, of any age',
					wish: { query: 'not smaller:1MB', label: 'of 1 MB and more' },
					...large
				}
			]
		: [];
	return [...archiving, { what: 'Empty the bin', wish: 'empty-bin' as const, ...bin }]
		.filter(({ bytes }) => bytes > 0)
		.sort((a, b) => b.bytes - a.bytes);
}

/** The advice as a sentence. @param toCome messages that are still on a server: nothing is known of them but their headers */
export function adviceSentence(best: Suggestion | undefined, total: Weight, toCome = 0): string {
	if (total.messages === 0) return 'There is no mail in this mailbox.';
	if (!best && toCome > 0) return 'What would free most is shown once the mail has arrived.';
	if (!best) return 'Nothing here is old or large, and the bin is empty.';
	const size =
		total.bytes >= WORTH_WORKING_ON_BYTES ? `At ${showBytes(total.bytes)} this mailbox is worth working on. ` : '';
	return `${size}What would free most: ${best.what.charAt(0).toLowerCase()}${best.what.slice(1)}, ${showMessages(best.messages)} (${showBytes(best.bytes)}, ${showShare(best.bytes, total.bytes)} of the mailbox).`;
}
