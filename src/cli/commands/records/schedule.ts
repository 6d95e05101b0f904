import { readFileSync, writeFileSync } from 'node:fs';
import { termsWords } from '../../../core/retention/sentences.ts';
import { seriesFields } from '../../../core/retention/schedule.ts';
import { showMessages } from '../../../core/weigh/units.ts';
import {
	discardSeries,
	exportSchedule,
	importSchedule,
	listSchedule,
	saveSeries,
	type SeriesFields,
	showSeries,
	triedWords,
	trySeries,
	useStarterSchedule
} from '$lib/server/retention/index.ts';
import { recalculateDue } from '$lib/server/standing/index.ts';
import { changing, command, group, wrongWords } from '../../command.ts';

/* `schedule`: the retention schedule of the office. */
const schedule = group('schedule', 'show and change the retention schedule');

changing<{ because?: string; starter?: boolean }>(
	'import [file]',
	'import a schedule from a CSV file: all of it, or nothing if a line is wrong',
	(c) =>
		c
			.option('--because <text>', 'why: it stays with each new version')
			.option('--starter', 'instead of a file: the starter schedule, an example to be replaced'),
	async (context, { because, starter }, file) => {
		if (!starter && file === undefined) throw wrongWords('name a file, or say --starter');
		const csv = () => {
			try {
				return readFileSync(file ?? '', 'utf8');
			} catch {
				throw wrongWords(`"${file}" cannot be read`);
			}
		};
		const done = starter ? await useStarterSchedule(context) : await importSchedule(context, { csv: csv(), because });
		await recalculateDue(context);
		return {
			result: done,
			lines: [
				`${done.made.length} made, ${done.changed.length} changed, ${done.same} as they were.`,
				...(done.notNamed.length > 0
					? [`Not in the file, and still on the schedule: ${done.notNamed.join(', ')}.`]
					: [])
			]
		};
	},
	schedule
);

command<{ out?: string }>(
	'export',
	'write the schedule as CSV',
	(c) => c.option('--out <file>', 'to a file; without it, to the terminal'),
	async (context, { out }) => {
		const csv = await exportSchedule(context);
		if (out !== undefined) writeFileSync(out, csv);
		return {
			result: out === undefined ? { csv } : { out },
			lines: out === undefined ? [csv.trimEnd()] : [`Written to ${out}.`]
		};
	},
	schedule
);

command<object>(
	'show [code]',
	'show the schedule, or one series with all its versions',
	(c) => c,
	async (context, _, code) => {
		if (code !== undefined) {
			const versions = await showSeries(context, { code });
			return {
				result: {
					versions: versions.map((one) => ({
						...seriesFields(one),
						version: one.version,
						since: one.since,
						because: one.because,
						madeBy: one.madeBy
					}))
				},
				lines: versions.map(
					({ version, since, title, terms, because, madeBy }) =>
						`Version ${version}, ${since}, ${madeBy}: ${title}; ${termsWords(terms)} (${because})`
				)
			};
		}
		const series = await listSchedule(context);
		return {
			result: {
				series: series.map((one) => ({
					...seriesFields(one),
					version: one.version,
					uses: one.uses,
					messages: one.messages
				}))
			},
			lines:
				series.length === 0
					? ['There is no schedule yet: "kovrel schedule import --starter" puts in an example.']
					: series.map(
							({ code, title, terms, messages }) =>
								`${code}  ${title}: ${termsWords(terms)}; ${showMessages(messages)} with a due date`
						)
		};
	},
	schedule
);

changing<Record<string, string | undefined>>(
	'set <code>',
	'make a series, or a new version of one; shows what it would change first with --dry-run',
	(c) =>
		c
			.option('--title <text>')
			.option('--description <text>')
			.option('--trigger <word>', 'received, thread, calendar-year, financial-year, closed')
			.option('--period <duration>', 'P7Y, P18M, P30D (ISO 8601)')
			.option('--disposition <word>', 'archive, destroy, archive-destroy, review, keep')
			.option('--archive-after <duration>', 'where it is archived first')
			.option('--authority <text>', 'the law or decision that requires it')
			.option('--owner <text>')
			.option('--because <text>', 'why it is changed'),
	async (context, { because, archiveAfter, ...given }, code = '') => {
		const known = (await listSchedule(context)).find((one) => one.code.toLowerCase() === code.toLowerCase());
		const fields: SeriesFields = {
			...(known ? seriesFields(known) : {}),
			...Object.fromEntries(Object.entries(given).filter(([, value]) => typeof value === 'string')),
			...(archiveAfter === undefined ? {} : { archive_after: archiveAfter }),
			code: known?.code ?? code
		};
		const tried = await trySeries(context, { fields });
		const saved = await saveSeries(context, { fields, because });
		await recalculateDue(context);
		return {
			result: { ...seriesFields(saved), version: saved.version, changes: tried.mailboxes },
			lines: [`${saved.code}, version ${saved.version}: ${termsWords(saved.terms)}.`, ...triedWords(tried)]
		};
	},
	schedule
);

changing<{ because: string }>(
	'remove <code>',
	'remove a series from the schedule, if nothing uses it',
	(c) => c.requiredOption('--because <text>', 'why'),
	async (context, { because }, code = '') => {
		await discardSeries(context, { code, because });
		return { result: { removed: code }, lines: [`${code} is off the schedule.`] };
	},
	schedule
);
