import type { ItemState } from '../../../core/docket/decision.ts';
import type { CalendarDate } from '../../../core/calendar.ts';
import type { ClassWord, RecordClass } from '../../../core/retention/classes.ts';
import {
	type Defaults,
	type Governed,
	governFolders,
	type NamedRetention,
	type RetainedFolder
} from '../../../core/retention/folders.ts';
import { readTerms, type Terms, termsText } from '../../../core/retention/terms.ts';
import { nameKey } from '../../../core/weigh/roles.ts';
import { change, type Db, empty, idOf, inList, join, row, rows, type Sql, sql } from '../database/index.ts';
import { findFolder } from '../mail/index.ts';
import { listClasses } from './classes-store.ts';

/** A retention: for a folder, a mailbox, a class or an item. */
export interface Retention {
	id: number;
	terms: Terms;
	/** Undefined: a plain period. */
	series: { id: number; code: string; title: string; version: number; authority: string } | undefined;
}

/** All retentions in use now or before: series in their current version, and plain periods. */
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

/** The number of a plain period, stored if it is new. */
export async function ensurePeriod(db: Db, terms: Terms): Promise<number> {
	const text = termsText(terms);
	const known = await db('retention').where({ terms: text }).first('id');
	return known?.id ?? idOf(db('retention').insert({ terms: text }));
}

/** The number of a series as a retention. */
export async function retentionOfSeries(db: Db, seriesId: number): Promise<number> {
	const known = await db('retention').where({ series_id: seriesId }).first('id');
	return known?.id ?? idOf(db('retention').insert({ series_id: seriesId }));
}

/* ---- settings ---- */
/** A folder with its settings. */
export interface SetFolder extends RetainedFolder {
	/** Whether it is an existing folder of the mailbox. */
	isShown: boolean;
	role: string | null;
}

/** All folders of a mailbox, with those of its archive and removed ones: items may come from there. */
export async function retainedFolders(db: Db, mailboxId: number): Promise<SetFolder[]> {
	const found = await db('folder')
		.leftJoin('record_class', 'record_class.id', 'folder.class')
		.where({ mailbox_id: mailboxId })
		.orderBy('folder.id')
		.select('folder.id', 'folder.name', 'path', 'tree', 'role', {
			class: 'word',
			parentId: 'parent_id',
			retentionId: 'folder.retention_id',
			closedOn: 'closed_on',
			removedAt: 'folder.removed_at'
		});
	return found.map(({ tree, removedAt, ...folder }) => ({
		...folder,
		isShown: tree === 'mailbox' && removedAt === null
	}));
}

/** The setting for a folder name. */
export async function namedRetentions(db: Db): Promise<NamedRetention[]> {
	return db('named_retention')
		.leftJoin('record_class', 'record_class.id', 'named_retention.class')
		.orderBy('named_retention.name_key')
		.select('named_retention.name', { class: 'word', retentionId: 'named_retention.retention_id' });
}

/** A mailbox's default for folders without settings. */
export async function retentionDefaults(db: Db, mailboxId: number): Promise<Defaults> {
	const own = await db('mailbox').where({ id: mailboxId }).first({ retentionId: 'retention_id' });
	return { retentionId: own?.retentionId ?? undefined, classes: await listClasses(db) };
}

/* The number of a class in a statement. */
const numberOf = (word: ClassWord | null): Sql => sql`(SELECT id FROM record_class WHERE word = ${word})`;

/** The settings of a folder; fields not given stay. */
export interface FolderRetention {
	retentionId?: number | null;
	class?: ClassWord | null;
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
		...(recordClass === undefined ? [] : [sql`class = ${numberOf(recordClass)}`]),
		...(closedOn === undefined ? [] : [sql`closed_on = ${closedOn}`])
	];
	if (set.length > 0) await change(db, sql`UPDATE folder SET ${join(set)} WHERE id IN ${inList(folderIds)}`);
}

/** Sets the retention for a folder name; nothing: the setting is removed. */
export async function putNamedRetention(db: Db, { name, retentionId, class: of }: NamedRetention): Promise<void> {
	if (retentionId === null && of === null)
		await db('named_retention')
			.where({ name_key: nameKey(name) })
			.delete();
	else
		await change(
			db,
			sql`INSERT INTO named_retention (name_key, name, retention_id, class) VALUES (${nameKey(name)}, ${name.trim()}, ${retentionId}, ${numberOf(of)})
			 ON CONFLICT (name_key) DO UPDATE SET name = excluded.name, retention_id = excluded.retention_id, class = excluded.class`
		);
}

/** Sets a mailbox's default. */
export async function putDefaultRetention(db: Db, mailboxId: number, retentionId: number | null): Promise<void> {
	await db('mailbox').where({ id: mailboxId }).update({ retention_id: retentionId });
}

/* ---- whether the settings are applied to the items ---- */

/** Records a change of settings of a mailbox, or of all: until it is applied, nothing acts on due dates. */
export async function noteSettings(db: Db, mailboxId: number | undefined): Promise<void> {
	await change(
		db,
		sql`UPDATE mailbox SET retention_settings = retention_settings + 1 ${mailboxId === undefined ? empty : sql`WHERE id = ${mailboxId}`}`
	);
}

/** Includes a mailbox's items in applying settings, if none were set in it before. */
export async function beginRetention(db: Db, mailboxId: number): Promise<void> {
	await db('mailbox')
		.where({ id: mailboxId, retention_settings: 0 })
		.update({ retention_settings: 1, retention_applied: 1 });
}

/** The number of a mailbox's settings, and of those applied. */
export interface Applied {
	settings: number;
	applied: number;
}

/** Whether a mailbox's settings are applied to its items. */
export async function appliedSettings(db: Db, mailboxId: number): Promise<Applied> {
	return (
		(await db('mailbox')
			.where({ id: mailboxId })
			.first({ settings: 'retention_settings', applied: 'retention_applied' })) ?? { settings: 0, applied: 0 }
	);
}

/** Records that settings are applied to all items of a mailbox. */
export async function noteApplied(db: Db, mailboxId: number, settings: number): Promise<void> {
	await change(
		db,
		sql`UPDATE mailbox SET retention_applied = max(retention_applied, ${settings}) WHERE id = ${mailboxId}`
	);
}

/** The mailboxes whose settings have to be applied. */
export async function mailboxesToApply(db: Db): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT id FROM mailbox WHERE retention_applied < retention_settings ORDER BY id`
	);
	return found.map(({ id }) => id);
}

/* ---- previewing a change ---- */

/** Changed settings, for a preview of their effect. */
export interface WhatIf {
	folders?: ReadonlyMap<number, FolderRetention>;
	/** Null: none. */
	defaultId?: number | null;
	named?: readonly NamedRetention[];
	/** Other classes, or the same with other fields. */
	classes?: readonly RecordClass[];
	/** Other terms of a retention, by its number. */
	terms?: ReadonlyMap<number, Terms>;
	firstMonth?: number;
}

/** The effective retention of each folder of a mailbox, now or in a preview. */
export async function governed(db: Db, mailboxId: number, whatIf: WhatIf = {}): Promise<Map<number, Governed>> {
	const folders = (await retainedFolders(db, mailboxId)).map((folder) => ({
		...folder,
		...whatIf.folders?.get(folder.id)
	}));
	const defaults = await retentionDefaults(db, mailboxId);
	return governFolders(folders, whatIf.named ?? (await namedRetentions(db)), {
		retentionId: whatIf.defaultId === undefined ? defaults.retentionId : (whatIf.defaultId ?? undefined),
		classes: whatIf.classes ?? defaults.classes
	});
}

/** The class that a folder gives to mail without one of its own; undefined: there is no such folder yet. */
export async function classOfFolder(
	db: Db,
	mailboxId: number,
	path: string
): Promise<{ word: ClassWord; byFolder: true } | undefined> {
	const folder = await findFolder(db, mailboxId, 'mailbox', path);
	const of = folder && (await governed(db, mailboxId)).get(folder.id);
	return of && { word: of.class, byFolder: true };
}

/** An item's own settings, and its governing folder. */
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
