import { periodText, readPeriod } from './periods.ts';
import { DISPOSITIONS, type Disposition, type Terms, TRIGGERS, type Trigger, wrongTerms } from './terms.ts';

/** One line of the retention schedule. */
export interface Series {
	code: string;
	title: string;
	description: string;
	terms: Terms;
	/** The law or decision behind it. */
	authority: string;
	owner: string;
}

/** A series in a list to select from. */
export type SeriesName = Pick<Series, 'code' | 'title'>;

/** Columns of a schedule as CSV, in their order (RFC 4180, with a header). */
export const SCHEDULE_COLUMNS = [
	'code',
	'title',
	'description',
	'trigger',
	'period',
	'disposition',
	'archive_after',
	'authority',
	'owner'
] as const;
type Column = (typeof SCHEDULE_COLUMNS)[number];

/** A fault in a line of a schedule. */
export interface LineError {
	/** Its number in the file, from 1. */
	line: number;
	message: string;
}

const CODE = /^[\p{L}\p{N}][\p{L}\p{N}./_-]{0,39}$/u;

/** The key of a code; case does not count. */
export function codeKey(code: string): string {
	return code.trim().normalize('NFC').toLowerCase();
}

function readColumn<T extends string>(text: string, words: readonly T[]): T | undefined {
	const wanted = text.trim().toLowerCase();
	return words.find((word) => word === wanted);
}

/**
 * Reads one line of the schedule from a form, a terminal or a CSV file.
 *
 * @returns the series, or what is wrong with it, each thing in words
 */
export function readSeries(fields: Partial<Record<Column, string>>): { series: Series } | { wrong: string[] } {
	const text = (column: Column) => (fields[column] ?? '').trim();
	const wrong: string[] = [];
	if (!CODE.test(text('code'))) wrong.push(`A code is up to 40 letters, digits and . / _ -, not "${text('code')}"`);
	if (text('title') === '') wrong.push('A title is missing');
	const trigger = readColumn<Trigger>(text('trigger') || 'received', TRIGGERS);
	if (!trigger) wrong.push(`The trigger is one of ${TRIGGERS.join(', ')}, not "${text('trigger')}"`);
	const disposition = readColumn<Disposition>(text('disposition'), DISPOSITIONS);
	if (!disposition) wrong.push(`The disposition is one of ${DISPOSITIONS.join(', ')}, not "${text('disposition')}"`);
	const readColumnPeriod = (column: 'period' | 'archive_after') => {
		const said = text(column);
		if (said === '' || said.toLowerCase() === 'permanent') return undefined;
		const period = readPeriod(said);
		if (!period) wrong.push(`A period is written like P7Y, P18M or P30D, not "${said}"`);
		return period;
	};
	const period = readColumnPeriod('period');
	const archiveAfter = readColumnPeriod('archive_after');
	if (trigger && disposition && wrong.length === 0) {
		const terms: Terms = { trigger, disposition, period, archiveAfter };
		const why = wrongTerms(terms);
		if (why === undefined)
			return {
				series: {
					code: text('code'),
					title: text('title'),
					description: text('description'),
					terms,
					authority: text('authority'),
					owner: text('owner')
				}
			};
		wrong.push(why);
	}
	return { wrong };
}

/** A series as a line of CSV; {@link readSeries} reads it. */
export function seriesFields({ code, title, description, terms, authority, owner }: Series): Record<Column, string> {
	const { trigger, disposition, period, archiveAfter } = terms;
	return {
		code,
		title,
		description,
		trigger,
		period: period ? periodText(period) : disposition === 'keep' ? 'permanent' : '',
		disposition,
		archive_after: archiveAfter ? periodText(archiveAfter) : '',
		authority,
		owner
	};
}

/**
 * Reads the lines of a schedule. Codes are unique.
 *
 * @param lines with their numbers in the file
 */
export function readSchedule(lines: readonly { line: number; fields: Partial<Record<Column, string>> }[]): {
	series: Series[];
	errors: LineError[];
} {
	const series: Series[] = [];
	const errors: LineError[] = [];
	const seen = new Map<string, number>();
	for (const { line, fields } of lines) {
		const read = readSeries(fields);
		if ('wrong' in read) {
			errors.push(...read.wrong.map((message) => ({ line, message })));
			continue;
		}
		const key = codeKey(read.series.code);
		const before = seen.get(key);
		if (before !== undefined)
			errors.push({ line, message: `The code ${read.series.code} stands on line ${before} already` });
		else {
			seen.set(key, line);
			series.push(read.series);
		}
	}
	return { series, errors };
}

/** Whether two series are equal in all fields. */
export function isSameSeries(a: Series, b: Series): boolean {
	return JSON.stringify(seriesFields(a)) === JSON.stringify(seriesFields(b));
}
