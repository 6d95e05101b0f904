import { archivePath, type Layout, type Month } from '../../../core/archive/layout.ts';
import type { Context } from '../context/index.ts';
import { change, type Db, rows, type Sql, sql } from '../database/index.ts';
import { type BeginningLine, type Destination, selection } from '../docket/index.ts';
import { ensureFolder } from '../mail/index.ts';
import { financialYearMonth } from '../standing/index.ts';

/** A folder and a month of the items to be archived. */
interface Origin {
	/** Null: their folder is not known. */
	folderId: number | null;
	path: string;
	/** Empty if the archive is not divided. */
	month: Month;
}

const monthSql = (layout: Layout) =>
	layout.divide === 'none'
		? sql`''`
		: sql`CASE WHEN item.date_in_doubt = 1 OR item.received_on IS NULL THEN '' ELSE substr(item.received_on, 1, 7) END`;

/** The folders and months of a line's items. @param from SQL of the folder that counts as theirs */
export async function lineOrigins(
	db: Db,
	{ docket, line, paused }: BeginningLine,
	from: Sql,
	month = sql`''`
): Promise<Origin[]> {
	const { within, selected } = selection(docket.mailboxId, line, paused);
	return rows<Origin>(
		db,
		sql`SELECT selected.folder_id AS folderId, ifnull(folder.path, '') AS path, selected.month FROM (
			SELECT DISTINCT ${from} AS folder_id, ${month} AS month FROM item WHERE ${within} AND ${selected}
		 ) selected LEFT JOIN folder ON folder.id = selected.folder_id`
	);
}

/**
 * The archive folder of each item, by its folder and the docket's layout; missing folders are created.
 *
 * @param from SQL of the folder that counts as theirs
 */
export async function intoArchive(context: Context, beginning: BeginningLine, from: Sql): Promise<Destination> {
	const { db } = context;
	const { docket } = beginning;
	const firstMonth = await financialYearMonth(context);
	const month = monthSql(docket.layout);
	const made = new Map<string, number>();
	const targets: { folderId: number | null; month: Month; targetId: number }[] = [];
	for (const origin of await lineOrigins(db, beginning, from, month)) {
		const place = archivePath(origin.path, origin.month, docket.layout, firstMonth);
		const targetId = made.get(place) ?? (await ensureFolder(db, docket.mailboxId, 'archive', place)).id;
		made.set(place, targetId);
		targets.push({ folderId: origin.folderId, month: origin.month, targetId });
	}
	await change(
		db,
		sql`CREATE TEMP TABLE IF NOT EXISTS target (folder_id INTEGER, month TEXT, target_id INTEGER, PRIMARY KEY (folder_id, month)) WITHOUT ROWID`
	);
	await change(db, sql`DELETE FROM temp.target`);
	await change(
		db,
		sql`INSERT INTO temp.target SELECT value ->> 'folderId', value ->> 'month', value ->> 'targetId'
		 FROM json_each(${JSON.stringify(targets)})`
	);
	return {
		folder: sql`target.target_id`,
		origin: from,
		join: sql`JOIN temp.target ON target.folder_id = ${from} AND target.month = ${month}`
	};
}
