import { type ArchivedFacts, archivePath, factsOf, type Layout } from '../../../core/archive/layout.ts';
import type { Context } from '../context/index.ts';
import { change, type Db, rows, type Sql, sql } from '../database/index.ts';
import { type BeginningLine, type Destination, selection } from '../docket/index.ts';
import { ensureFolder } from '../mail/index.ts';
import { financialYearMonth } from '../standing/index.ts';

/* The facts of an item by which a layout sorts it; those it does not ask for are the same for all. */
interface Keys {
	folderId: Sql;
	month: Sql;
	organisationId: Sql;
	retentionId: Sql;
}

/** @param from SQL of the folder that counts as an item's */
function keysFor(layout: Layout, from: Sql): Keys {
	const facts = factsOf(layout);
	return {
		folderId: from,
		month: facts.month
			? sql`CASE WHEN item.date_in_doubt = 1 OR item.received_on IS NULL THEN '' ELSE substr(item.received_on, 1, 7) END`
			: sql`''`,
		organisationId: facts.organisation ? sql`item.organisation_id` : sql`0`,
		retentionId: facts.series ? sql`ifnull(item.retention_id, 0)` : sql`0`
	};
}

interface Origin {
	/** Null: their folder is not known. */
	folderId: number | null;
	path: string;
}

/** The folders of a line's items. @param from SQL of the folder that counts as theirs */
export async function lineOrigins(db: Db, { docket, line, paused }: BeginningLine, from: Sql): Promise<Origin[]> {
	const { within, selected } = selection(docket.mailboxId, line, paused);
	return rows<Origin>(
		db,
		sql`SELECT selected.folder_id AS folderId, ifnull(folder.path, '') AS path FROM (
			SELECT DISTINCT ${from} AS folder_id FROM item WHERE ${within} AND ${selected}
		 ) selected LEFT JOIN folder ON folder.id = selected.folder_id`
	);
}

/* Items that go to the same place: their keys, and the facts behind them. */
interface Group extends ArchivedFacts {
	folderId: number | null;
	organisationId: number;
	retentionId: number;
}

const FACTS = sql`keys.folder_id AS folderId, keys.month, keys.organisation_id AS organisationId, keys.retention_id AS retentionId,
	ifnull(folder.path, '') AS folder, ifnull(organisation.domain, '') AS organisation, ifnull(series.code, '') AS series`;
const NAMES = sql`LEFT JOIN folder ON folder.id = keys.folder_id LEFT JOIN organisation ON organisation.id = keys.organisation_id
	LEFT JOIN retention ON retention.id = keys.retention_id LEFT JOIN series ON series.id = retention.series_id`;
const columns = ({ folderId, month, organisationId, retentionId }: Keys) =>
	sql`${folderId} AS folder_id, ${month} AS month, ${organisationId} AS organisation_id, ${retentionId} AS retention_id`;

/**
 * The archive folder of each item, by its facts and the docket's layout; missing folders are created.
 *
 * @param from SQL of the folder that counts as theirs
 */
export async function intoArchive(
	context: Context,
	{ docket, line, paused }: BeginningLine,
	from: Sql
): Promise<Destination> {
	const { db } = context;
	const firstMonth = await financialYearMonth(context);
	const keys = keysFor(docket.layout, from);
	const { within, selected } = selection(docket.mailboxId, line, paused);
	const groups = await rows<Group>(
		db,
		sql`SELECT ${FACTS} FROM (SELECT DISTINCT ${columns(keys)} FROM item WHERE ${within} AND ${selected}) keys ${NAMES}`
	);
	const made = new Map<string, number>();
	const targets: (Omit<Group, keyof ArchivedFacts> & { month: string; targetId: number })[] = [];
	for (const { folderId, month, organisationId, retentionId, ...facts } of groups) {
		const place = archivePath({ ...facts, month }, docket.layout, firstMonth);
		const targetId = made.get(place) ?? (await ensureFolder(db, docket.mailboxId, 'archive', place)).id;
		made.set(place, targetId);
		targets.push({ folderId, month, organisationId, retentionId, targetId });
	}
	await change(
		db,
		sql`CREATE TEMP TABLE IF NOT EXISTS target (folder_id INTEGER, month TEXT, organisation_id INTEGER, retention_id INTEGER, target_id INTEGER,
			PRIMARY KEY (folder_id, month, organisation_id, retention_id)) WITHOUT ROWID`
	);
	await change(db, sql`DELETE FROM temp.target`);
	await change(
		db,
		sql`INSERT INTO temp.target SELECT value ->> 'folderId', value ->> 'month', value ->> 'organisationId', value ->> 'retentionId',
			value ->> 'targetId' FROM json_each(${JSON.stringify(targets)})`
	);
	return {
		folder: sql`target.target_id`,
		origin: from,
		join: sql`JOIN temp.target ON target.folder_id = ${keys.folderId} AND target.month = ${keys.month}
			AND target.organisation_id = ${keys.organisationId} AND target.retention_id = ${keys.retentionId}`
	};
}

/** Facts of mail, with how many messages share them. */
export interface FactsCount extends ArchivedFacts {
	messages: number;
}

/* A picture needs no more than these. */
const PICTURED = 3_000;

/** The facts of a mailbox's oldest mail in folders, the most frequent first: what a layout is shown with. */
export async function oldestFacts(db: Db, mailboxId: number): Promise<FactsCount[]> {
	const all: Layout = ['folder', 'organisation', 'series', 'month'];
	return rows<FactsCount>(
		db,
		sql`SELECT folder, organisation, series, month, messages FROM (
			SELECT ${FACTS}, count(*) AS messages FROM (
				SELECT ${columns(keysFor(all, sql`item.folder_id`))} FROM item
				WHERE mailbox_id = ${mailboxId} AND state = 'live' ORDER BY received_on LIMIT ${PICTURED}
			 ) keys ${NAMES} GROUP BY keys.folder_id, keys.month, keys.organisation_id, series.code)
		 ORDER BY messages DESC, folder, month`
	);
}
