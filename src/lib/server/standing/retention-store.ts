import type { ItemState } from '../../../core/docket/decision.ts';
import type { CalendarDate } from '../../../core/calendar.ts';
import { classNumber, classOf, type RecordClass } from '../../../core/retention/classes.ts';
import {
	type Defaults,
	type Governed,
	governFolders,
	type NamedRetention,
	type RetainedFolder
} from '../../../core/retention/folders.ts';
import { readTerms, type Terms, termsText } from '../../../core/retention/terms.ts';
import { nameKey } from '../../../core/weigh/roles.ts';
import { change, type Db, empty, inList, insert, join, row, rows, sql } from '../database/index.ts';

/** What can be set on a folder, a mailbox, a class or an item. */
export interface Retention {
	id: number;
	terms: Terms;
	/** Undefined: a plain period. */
	series: { id: number; code: string; title: string; version: number; authority: string } | undefined;
}

/** All that can be, or once was, set: series by their current version, and plain periods. */
export async function listRetentions(db: Db): Promise<Map<number, Retention>> {
	const found = await rows<{
		id: number;
		terms: string;
		seriesId: number | null;
		code: string;
		title: string;
		version: number;
		authority: string;
	}>(
		db,
		sql`SELECT retention.id, ifnull(retention.terms, now.terms) AS terms, retention.series_id AS seriesId, code, now.title,
			now.version, now.authority
		 FROM retention LEFT JOIN series ON series.id = retention.series_id
			LEFT JOIN series_version now ON now.series_id = series.id
				AND now.version = (SELECT max(version) FROM series_version WHERE series_version.series_id = series.id)`
	);
	return new Map(
		found.map(({ id, terms, seriesId, code, title, version, authority }) => [
			id,
			{
				id,
				terms: readTerms(terms),
				series: seriesId === null ? undefined : { id: seriesId, code, title, version, authority }
			}
		])
	);
}

/** The number of a plain period, stored where it was not. */
export async function ensurePeriod(db: Db, terms: Terms): Promise<number> {
	const text = termsText(terms);
	const known = await row<{ id: number }>(db, sql`SELECT id FROM retention WHERE terms = ${text}`);
	return known?.id ?? insert(db, sql`INSERT INTO retention (terms) VALUES (${text})`);
}

/** The number under which a series is set. */
export async function retentionOfSeries(db: Db, seriesId: number): Promise<number> {
	const known = await row<{ id: number }>(db, sql`SELECT id FROM retention WHERE series_id = ${seriesId}`);
	return known?.id ?? insert(db, sql`INSERT INTO retention (series_id) VALUES (${seriesId})`);
}

/* ---- what is set -------------------------------------------------------------------------------------------------- */
interface FolderRow extends Omit<RetainedFolder, 'class'> {
	class: number | null;
	tree: string;
	removedAt: string | null;
	role: string | null;
}

/** A folder with what is set on it. */
export interface SetFolder extends RetainedFolder {
	/** Whether it is one of the mailbox's that are there. */
	isShown: boolean;
	role: string | null;
}

/** All folders of a mailbox, those of its archive and those that were removed among them: items may come from there. */
export async function retainedFolders(db: Db, mailboxId: number): Promise<SetFolder[]> {
	const found = await rows<FolderRow>(
		db,
		sql`SELECT id, parent_id AS parentId, name, path, retention_id AS retentionId, class, closed_on AS closedOn, tree, role,
			removed_at AS removedAt
		 FROM folder WHERE mailbox_id = ${mailboxId} ORDER BY id`
	);
	return found.map(({ class: number, tree, removedAt, ...folder }) => ({
		...folder,
		class: number === null ? null : classOf(number),
		isShown: tree === 'mailbox' && removedAt === null
	}));
}

/** What every folder of a name has. */
export async function namedRetentions(db: Db): Promise<NamedRetention[]> {
	const found = await rows<{ name: string; retentionId: number | null; class: number | null }>(
		db,
		sql`SELECT name, retention_id AS retentionId, class FROM named_retention ORDER BY name_key`
	);
	return found.map((named) => ({ ...named, class: named.class === null ? null : classOf(named.class) }));
}

/** What holds where no folder of a mailbox says anything. */
export async function retentionDefaults(db: Db, mailboxId: number): Promise<Defaults> {
	const own = await row<{ retentionId: number | null }>(
		db,
		sql`SELECT retention_id AS retentionId FROM mailbox WHERE id = ${mailboxId}`
	);
	return { retentionId: own?.retentionId ?? undefined, byClass: await classRetentions(db) };
}

/** The periods of the policy, by class. */
export async function classRetentions(db: Db): Promise<Defaults['byClass']> {
	const found = await rows<{ class: number; retentionId: number }>(
		db,
		sql`SELECT class, retention_id AS retentionId FROM class_retention`
	);
	return Object.fromEntries(found.map(({ class: number, retentionId }) => [classOf(number), retentionId]));
}

/** What is set on a folder; what is not named stays. */
export interface FolderRetention {
	retentionId?: number | null;
	class?: RecordClass | null;
	closedOn?: CalendarDate | null;
}

/** Sets what holds for folders. */
export async function putFolderRetention(
	db: Db,
	folderIds: readonly number[],
	{ retentionId, class: recordClass, closedOn }: FolderRetention
): Promise<void> {
	const set = [
		...(retentionId === undefined ? [] : [sql`retention_id = ${retentionId}`]),
		...(recordClass === undefined ? [] : [sql`class = ${recordClass && classNumber(recordClass)}`]),
		...(closedOn === undefined ? [] : [sql`closed_on = ${closedOn}`])
	];
	if (set.length > 0) await change(db, sql`UPDATE folder SET ${join(set)} WHERE id IN ${inList(folderIds)}`);
}

/** Sets what every folder of a name has; nothing: the name is forgotten. */
export async function putNamedRetention(db: Db, { name, retentionId, class: of }: NamedRetention): Promise<void> {
	if (retentionId === null && of === null)
		await change(db, sql`DELETE FROM named_retention WHERE name_key = ${nameKey(name)}`);
	else
		await change(
			db,
			sql`INSERT INTO named_retention (name_key, name, retention_id, class) VALUES (${nameKey(name)}, ${name.trim()}, ${retentionId}, ${of && classNumber(of)})
			 ON CONFLICT (name_key) DO UPDATE SET name = excluded.name, retention_id = excluded.retention_id, class = excluded.class`
		);
}

/** Sets what holds for the rest of a mailbox. */
export async function putDefaultRetention(db: Db, mailboxId: number, retentionId: number | null): Promise<void> {
	await change(db, sql`UPDATE mailbox SET retention_id = ${retentionId} WHERE id = ${mailboxId}`);
}

/** Sets the policy's period for a class. */
export async function putClassRetention(db: Db, of: RecordClass, retentionId: number | null): Promise<void> {
	if (retentionId === null) await change(db, sql`DELETE FROM class_retention WHERE class = ${classNumber(of)}`);
	else
		await change(
			db,
			sql`INSERT INTO class_retention (class, retention_id) VALUES (${classNumber(of)}, ${retentionId}) ON CONFLICT (class) DO UPDATE SET retention_id = excluded.retention_id`
		);
}

/* ---- whether the items say what is set ------------------------------------------------------------------------------ */

/** Notes that settings of a mailbox, or of all, have changed: until they are applied, nothing is done by what items say. */
export async function noteSettings(db: Db, mailboxId: number | undefined): Promise<void> {
	await change(
		db,
		sql`UPDATE mailbox SET retention_settings = retention_settings + 1 ${mailboxId === undefined ? empty : sql`WHERE id = ${mailboxId}`}`
	);
}

/** Has items of a mailbox be looked at from now on, where nothing was set in it yet. */
export async function beginRetention(db: Db, mailboxId: number): Promise<void> {
	await change(
		db,
		sql`UPDATE mailbox SET retention_settings = 1, retention_applied = 1 WHERE id = ${mailboxId} AND retention_settings = 0`
	);
}

/** Which settings a mailbox has by number, and which its items say. */
export interface Applied {
	settings: number;
	applied: number;
}

/** Whether what a mailbox is set to has been applied to its items. */
export async function appliedSettings(db: Db, mailboxId: number): Promise<Applied> {
	return (
		(await row<Applied>(
			db,
			sql`SELECT retention_settings AS settings, retention_applied AS applied FROM mailbox WHERE id = ${mailboxId}`
		)) ?? { settings: 0, applied: 0 }
	);
}

/** Notes that settings have been applied to all items of a mailbox. */
export async function noteApplied(db: Db, mailboxId: number, settings: number): Promise<void> {
	await change(
		db,
		sql`UPDATE mailbox SET retention_applied = max(retention_applied, ${settings}) WHERE id = ${mailboxId}`
	);
}

/** The mailboxes whose settings have not been applied yet. */
export async function mailboxesToApply(db: Db): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT id FROM mailbox WHERE retention_applied < retention_settings ORDER BY id`
	);
	return found.map(({ id }) => id);
}

/* ---- a change that is only tried -------------------------------------------------------------------------------------- */

/** Settings otherwise than they are: to see what a change would do before it is made. */
export interface WhatIf {
	folders?: ReadonlyMap<number, FolderRetention>;
	/** Null: none. */
	defaultId?: number | null;
	named?: readonly NamedRetention[];
	byClass?: Defaults['byClass'];
	/** Other terms of a retention, by its number. */
	terms?: ReadonlyMap<number, Terms>;
	firstMonth?: number;
}

/** What holds for each folder of a mailbox, as it is set or as it would be. */
export async function governed(db: Db, mailboxId: number, whatIf: WhatIf = {}): Promise<Map<number, Governed>> {
	const folders = (await retainedFolders(db, mailboxId)).map((folder) => ({
		...folder,
		...whatIf.folders?.get(folder.id)
	}));
	const defaults = await retentionDefaults(db, mailboxId);
	return governFolders(folders, whatIf.named ?? (await namedRetentions(db)), {
		retentionId: whatIf.defaultId === undefined ? defaults.retentionId : (whatIf.defaultId ?? undefined),
		byClass: whatIf.byClass ?? defaults.byClass
	});
}

/** What is set on an item itself, and the folder that governs it. */
export async function itemRetention(
	db: Db,
	itemId: number
): Promise<{ retentionId: number | null; folderId: number; state: ItemState }> {
	return (
		(await row(
			db,
			sql`SELECT own_retention_id AS retentionId, state, CASE state WHEN 'live' THEN folder_id ELSE ifnull(origin_folder_id, folder_id) END AS folderId
			 FROM item WHERE id = ${itemId}`
		)) ?? { retentionId: null, folderId: 0, state: 'destroyed' }
	);
}
