import { parse } from 'csv-parse/sync';
import { stringify } from 'csv-stringify/sync';
import { CSV_FORMAT, harmlessCell, originalCell } from '../../../core/formats/csv-cells.ts';
import {
	isSameSeries,
	type LineError,
	readSchedule,
	readSeries,
	SCHEDULE_COLUMNS,
	type SeriesName,
	type Series,
	seriesFields
} from '../../../core/retention/schedule.ts';
import { STARTER_SCHEDULE } from '../../../core/retention/starter-schedule.ts';
import { termsText } from '../../../core/retention/terms.ts';
import { inSnapshot, inTransaction } from '../database/index.ts';
import { Refusal } from '../refusal.ts';
import {
	addSeries,
	addVersion,
	applySmall,
	type DueChange,
	findSeries,
	governedBy,
	listRetentions,
	listSeries,
	noteSettings,
	removeSeries,
	retentionOfSeries,
	type SeriesVersion,
	seriesVersions,
	tryDue,
	usesOfSeries
} from '../standing/index.ts';
import { appendLedger } from '../ledger/index.ts';
import { listMailboxes } from '../mail/index.ts';
import { type Context, defineUseCase, text, today } from '../context/index.ts';
import Joi from 'joi';

export type SeriesFields = Parameters<typeof readSeries>[0];

const refuse = (message: string) => new Refusal('bad-input', `${message} Nothing was changed.`);

/** A series in the list. */
export interface SeriesView extends SeriesVersion {
	/** Messages with a due date under it. */
	messages: number;
	/** How many places use it. */
	uses: number;
}

/** The schedule; removed series on request. */
export async function listSchedule({ db }: Context, input: { removed?: boolean } = {}): Promise<SeriesView[]> {
	const uses = await usesOfSeries(db);
	const governs = await governedBy(db);
	const views: SeriesView[] = [];
	for (const series of await listSeries(db)) {
		if (series.removedAt !== null && !input.removed) continue;
		const retention = uses.has(series.id) ? await retentionOfSeries(db, series.id) : undefined;
		views.push({
			...series,
			uses: uses.get(series.id) ?? 0,
			messages: retention === undefined ? 0 : (governs.get(retention) ?? 0)
		});
	}
	return views;
}

/** The series that can be selected, by code. */
async function listSeriesNames({ db }: Context): Promise<SeriesName[]> {
	const series = await listSeries(db);
	return series.filter(({ removedAt }) => removedAt === null).map(({ code, title }) => ({ code, title }));
}

/** A series with all its versions. @throws Refusal */
export async function showSeries({ db }: Context, input: { code: string }): Promise<SeriesVersion[]> {
	const series = await findSeries(db, input.code);
	if (!series) throw new Refusal('not-found', `There is no series ${input.code}.`);
	return seriesVersions(db, series.id);
}

/** The effect of a change of the schedule, by mailbox. */
export interface TriedChange {
	mailboxes: (DueChange & { mailbox: string })[];
}

/** A series as it would be saved. @throws Refusal */
function readFields(fields: SeriesFields): Series {
	const read = readSeries(fields);
	if ('wrong' in read) throw refuse(`${read.wrong.join('. ')}.`);
	return read.series;
}

/** The effect of saving a series, before it is saved. @throws Refusal */
export async function trySeries(context: Context, input: { fields: SeriesFields }): Promise<TriedChange> {
	const { db } = context;
	const series = readFields(input.fields);
	const known = await findSeries(db, series.code);
	if (!known || termsText(known.terms) === termsText(series.terms)) return { mailboxes: [] };
	const id = [...(await listRetentions(db))].find(([, { series: of }]) => of?.id === known.id)?.[0];
	if (id === undefined) return { mailboxes: [] };
	// the temporary tables belong to this connection
	return inSnapshot(db, async (trx) => {
		const mailboxes: TriedChange['mailboxes'] = [];
		for (const { id: mailboxId, name } of await listMailboxes(trx)) {
			const change = await tryDue(trx, mailboxId, { terms: new Map([[id, series.terms]]) }, today(context));
			if (change.messages > 0) mailboxes.push({ mailbox: name, ...change });
		}
		return { mailboxes };
	});
}

async function saveIn(context: Context, series: Series, because: string): Promise<'made' | 'changed' | 'same'> {
	const { db } = context;
	const known = await findSeries(db, series.code);
	if (known && known.removedAt === null && isSameSeries(known, { ...series, code: known.code })) return 'same';
	const id = known?.id ?? (await addSeries(db, series.code));
	const version = (known?.version ?? 0) + 1;
	await addVersion(db, id, series, { version, since: today(context), because, madeBy: context.actor.name });
	// unchanged terms leave due dates unchanged
	if (known && termsText(known.terms) !== termsText(series.terms)) await noteSettings(db, undefined);
	await appendLedger(db, {
		at: context.now(),
		by: context.actor,
		action: 'series-set',
		details: {
			...seriesFields(series),
			version,
			because,
			...(known ? { before: seriesFields(known) } : {})
		}
	});
	return known ? 'changed' : 'made';
}

/**
 * Saves a series: a new one, or a new version with a reason.
 *
 * @throws Refusal
 */
export async function saveSeries(
	context: Context,
	input: { fields: SeriesFields; because?: string | undefined }
): Promise<SeriesVersion> {
	const series = readFields(input.fields);
	const because = input.because?.trim() ?? '';
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const known = await findSeries(db, series.code);
		if (known && because === '' && !isSameSeries(known, { ...series, code: known.code }))
			throw refuse(`Say why ${known.code} is changed: the reason stays with its new version.`);
		await saveIn(within, series, because || 'First version');
		await applySmall(within);
		return (await findSeries(db, series.code)) as SeriesVersion;
	});
}

/** Removes a series from the schedule. One in use stays. @throws Refusal */
export async function discardSeries(context: Context, input: { code: string; because: string }): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const series = await findSeries(db, input.code);
		if (!series || series.removedAt !== null) throw new Refusal('not-found', `There is no series ${input.code}.`);
		if (input.because.trim() === '') throw refuse('Say why it is taken off the schedule.');
		const uses = (await usesOfSeries(db)).get(series.id) ?? 0;
		if (uses > 0)
			throw new Refusal(
				'not-possible',
				`${series.code} is set in ${uses} ${uses === 1 ? 'place' : 'places'}: give those another series first. Nothing was changed.`
			);
		await removeSeries(db, series.id, context.now().toISOString());
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'series-removed',
			details: { code: series.code, because: input.because.trim() }
		});
	});
}

/** The result of importing a schedule. */
export interface ScheduleImported {
	made: string[];
	changed: string[];
	same: number;
	/** Series on the schedule that the file lacks: they stay. */
	notNamed: string[];
}

/* The lines of a CSV file by their numbers in it. */
function linesOf(csv: string): { line: number; fields: SeriesFields }[] {
	const records = (() => {
		try {
			return parse(csv, {
				bom: true,
				columns: (names: string[]) => names.map((name) => name.trim().toLowerCase()),
				skip_empty_lines: true,
				info: true,
				relax_column_count: true
			}) as unknown as {
				record: Record<string, string>;
				info: { lines: number };
			}[];
		} catch (cause) {
			throw new Refusal(
				'bad-input',
				`The file cannot be read as CSV: ${(cause as Error).message}. Nothing was changed.`,
				{
					cause
				}
			);
		}
	})();
	const [first] = records;
	const missing = ['code', 'title', 'disposition'].filter((name) => first && !(name in first.record));
	if (!first || missing.length > 0)
		throw refuse(
			`A schedule is CSV with a header: ${SCHEDULE_COLUMNS.join(', ')}.${missing.length > 0 ? ` Missing: ${missing.join(', ')}.` : ''}`
		);
	return records.map(({ record, info }) => ({
		line: info.lines,
		fields: Object.fromEntries(Object.entries(record).map(([name, cell]) => [name, originalCell(cell)])) as SeriesFields
	}));
}

/** Names the faults in the lines of a schedule. */
function errorSentence(errors: readonly LineError[]): string {
	const shown = errors.slice(0, 20).map(({ line, message }) => `Line ${line}: ${message}.`);
	const more = errors.length - shown.length;
	return [...shown, ...(more > 0 ? [`And ${more} more.`] : [])].join('\n');
}

async function importLines(
	context: Context,
	lines: { line: number; fields: SeriesFields }[],
	because: string
): Promise<ScheduleImported> {
	const { series, errors } = readSchedule(lines);
	if (errors.length > 0) throw new Refusal('bad-input', `${errorSentence(errors)}\nNothing was changed.`);
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const named = new Set(series.map(({ code }) => code.toLowerCase()));
		const done: ScheduleImported = {
			made: [],
			changed: [],
			same: 0,
			notNamed: (await listSeries(db))
				.filter(({ code, removedAt }) => removedAt === null && !named.has(code.toLowerCase()))
				.map(({ code }) => code)
		};
		for (const one of series) {
			const how = await saveIn(within, one, because);
			if (how === 'same') done.same++;
			else done[how].push(one.code);
		}
		await applySmall(within);
		return done;
	});
}

/**
 * Imports a schedule from CSV: the whole file, or nothing if a line is wrong. @throws Refusal that names the lines
 */
export async function importSchedule(
	context: Context,
	input: { csv: string; because?: string | undefined }
): Promise<ScheduleImported> {
	return importLines(context, linesOf(input.csv), input.because?.trim() || 'Imported from a file');
}

/** Loads the starter schedule into an empty one. @throws Refusal */
export async function useStarterSchedule(context: Context): Promise<ScheduleImported> {
	if ((await listSeries(context.db)).some(({ removedAt }) => removedAt === null))
		throw new Refusal('not-possible', 'There is a schedule already. Nothing was changed.');
	const lines = STARTER_SCHEDULE.map((fields, n) => ({ line: n + 1, fields }));
	return importLines(context, lines, 'Starter schedule, an example');
}

/** The schedule as CSV (RFC 4180). */
export async function exportSchedule(context: Context): Promise<string> {
	const series = await listSchedule(context);
	return stringify(
		series.map((one) => Object.values(seriesFields(one)).map(harmlessCell)),
		{ header: true, columns: [...SCHEDULE_COLUMNS], ...CSV_FORMAT }
	);
}

/** The use cases of this file. */
export const scheduleUseCases = [
	defineUseCase({
		name: 'listSchedule',
		input: () => Joi.object({ removed: Joi.boolean() }),
		thread: 'reader',
		right: 'oversight',
		run: listSchedule
	}),
	defineUseCase({ name: 'listSeriesNames', thread: 'reader', right: 'oversight', run: listSeriesNames }),
	defineUseCase({
		name: 'showSeries',
		input: () => Joi.object({ code: text.required() }).required(),
		thread: 'reader',
		right: 'oversight',
		run: showSeries
	}),
	defineUseCase({
		name: 'exportSchedule',
		thread: 'reader',
		right: 'oversight',
		run: exportSchedule
	}),
	defineUseCase({
		name: 'trySeries',
		input: () =>
			Joi.object({
				fields: Joi.object({
					code: text,
					title: text,
					description: text,
					trigger: text,
					period: text,
					disposition: text,
					archive_after: text,
					authority: text,
					owner: text
				}).required()
			}).required(),
		thread: 'heavy',
		right: 'administrator',
		run: trySeries
	}),
	defineUseCase({
		name: 'saveSeries',
		input: () =>
			Joi.object({
				fields: Joi.object({
					code: text,
					title: text,
					description: text,
					trigger: text,
					period: text,
					disposition: text,
					archive_after: text,
					authority: text,
					owner: text
				}).required(),
				because: text
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: saveSeries
	}),
	defineUseCase({
		name: 'discardSeries',
		input: () => Joi.object({ code: text.required(), because: text.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: discardSeries
	}),
	defineUseCase({
		name: 'importSchedule',
		input: () => Joi.object({ csv: text.required(), because: text }).required(),
		thread: 'writer',
		right: 'administrator',
		run: importSchedule
	}),
	defineUseCase({
		name: 'useStarterSchedule',
		thread: 'writer',
		right: 'administrator',
		run: useStarterSchedule
	})
] as const;
