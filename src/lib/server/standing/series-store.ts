import type { CalendarDate } from '../../../core/calendar.ts';
import { codeKey, type Series } from '../../../core/retention/schedule.ts';
import { readTerms, termsText } from '../../../core/retention/terms.ts';
import { type Db, idOf, row, rows, sql } from '../database/index.ts';

/** A series in one of its versions. */
export interface SeriesVersion extends Series {
	id: number;
	version: number;
	since: CalendarDate;
	because: string;
	madeBy: string;
	/** Set if the series can no longer be assigned. */
	removedAt: string | null;
}

interface VersionRow extends Omit<SeriesVersion, 'terms'> {
	terms: string;
}

const SELECT = sql`SELECT series.id, code, removed_at AS removedAt, version, title, description, terms, authority, owner, since, because,
	made_by AS madeBy FROM series JOIN series_version ON series_version.series_id = series.id`;
const read = ({ terms, ...version }: VersionRow): SeriesVersion => ({ ...version, terms: readTerms(terms) });

/** The schedule: each series in its current version, by code. */
export async function listSeries(db: Db): Promise<SeriesVersion[]> {
	const found = await rows<VersionRow>(
		db,
		sql`${SELECT} WHERE version = (SELECT max(version) FROM series_version newer WHERE newer.series_id = series.id) ORDER BY code_key`
	);
	return found.map(read);
}

/** The series with that code in its current version; case does not count. */
export async function findSeries(db: Db, code: string): Promise<SeriesVersion | undefined> {
	const found = await row<VersionRow>(
		db,
		sql`${SELECT} WHERE code_key = ${codeKey(code)} ORDER BY version DESC LIMIT 1`
	);
	return found && read(found);
}

/** All versions of a series, the newest first. */
export async function seriesVersions(db: Db, id: number): Promise<SeriesVersion[]> {
	return (await rows<VersionRow>(db, sql`${SELECT} WHERE series.id = ${id} ORDER BY version DESC`)).map(read);
}

/** Stores a new series, without a version yet, and returns its number. */
export async function addSeries(db: Db, code: string): Promise<number> {
	return idOf(db('series').insert({ code: code.trim(), code_key: codeKey(code) }));
}

/** Stores a version of a series. */
export async function addVersion(
	db: Db,
	id: number,
	{ title, description, terms, authority, owner }: Series,
	{ version, since, because, madeBy }: Pick<SeriesVersion, 'version' | 'since' | 'because' | 'madeBy'>
): Promise<void> {
	await db('series_version').insert({
		series_id: id,
		version,
		title,
		description,
		terms: termsText(terms),
		authority,
		owner,
		since,
		because,
		made_by: madeBy
	});
	await db('series').where({ id }).update({ removed_at: null });
}

/** Removes a series from the schedule; its versions stay, for earlier destructions. */
export async function removeSeries(db: Db, id: number, at: string): Promise<void> {
	await db('series').where({ id }).update({ removed_at: at });
}

/** The places that use a series: folders, mailboxes, names, classes, and single items. */
export async function usesOfSeries(db: Db): Promise<Map<number, number>> {
	const found = await rows<{ id: number; n: number }>(
		db,
		sql`SELECT series_id AS id, (SELECT count(*) FROM folder WHERE folder.retention_id = retention.id)
			+ (SELECT count(*) FROM mailbox WHERE mailbox.retention_id = retention.id)
			+ (SELECT count(*) FROM named_retention WHERE named_retention.retention_id = retention.id)
			+ (SELECT count(*) FROM record_class WHERE record_class.retention_id = retention.id)
			+ (SELECT count(*) FROM item WHERE item.own_retention_id = retention.id) AS n
		 FROM retention WHERE series_id IS NOT NULL`
	);
	return new Map(found.map(({ id, n }) => [id, n]));
}

/** How many messages each retention governs, by number, without the bin. */
export async function governedBy(db: Db): Promise<Map<number, number>> {
	const found = await rows<{ id: number; n: number }>(
		db,
		sql`SELECT retention_id AS id, sum(messages) AS n FROM due_weight GROUP BY 1`
	);
	return new Map(found.map(({ id, n }) => [id, n]));
}
