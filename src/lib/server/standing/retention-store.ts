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
import { change, type Db, empty, idOf, inList, join, row, rows, sql } from '../database/index.ts';

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
		.where({ mailbox_id: mailboxId })
		.orderBy('id')
		.select('id', 'name', 'path', 'class', 'tree', 'role', {
			parentId: 'parent_id',
			retentionId: 'retention_id',
			closedOn: 'closed_on',
			removedAt: 'removed_at'
		});
	return found.map(({ class: number, tree, removedAt, ...folder }) => ({
		...folder,
		class: number === null ? null : classOf(number),
		isShown: tree === 'mailbox' && removedAt === null
	}));
}

/** The setting for a folder name. */
export async function namedRetentions(db: Db): Promise<NamedRetention[]> {
	const found = await db('named_retention')
		.orderBy('name_key')
		.select('name', 'class', { retentionId: 'retention_id' });
	return found.map((named) => ({ ...named, class: named.class === null ? null : classOf(named.class) }));
}

/** A mailbox's default for folders without settings. */
export async function retentionDefaults(db: Db, mailboxId: number): Promise<Defaults> {
	const own = await db('mailbox').where({ id: mailboxId }).first({ retentionId: 'retention_id' });
	return { retentionId: own?.retentionId ?? undefined, byClass: await classRetentions(db) };
}

/** The periods of the policy, by class. */
export async function classRetentions(db: Db): Promise<Defaults['byClass']> {
	const found = await db('class_retention').select('class', { retentionId: 'retention_id' });
	return Object.fromEntries(found.map(({ class: number, retentionId }) => [classOf(number), retentionId]));
}

/** The settings of a folder; fields not given stay. */
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

/** Sets the retention for a folder name; nothing: the setting is removed. */
export async function putNamedRetention(db: Db, { name, retentionId, class: of }: NamedRetention): Promise<void> {
	if (retentionId === null && of === null)
		await db('named_retention')
			.where({ name_key: nameKey(name) })
			.delete();
	else
		await db('named_retention')
			.insert({ name_key: nameKey(name), name: name.trim(), retention_id: retentionId, class: of && classNumber(of) })
			.onConflict(['name_key'])
			.merge(['name', 'retention_id', 'class']);
}

/** Sets a mailbox's default. */
export async function putDefaultRetention(db: Db, mailboxId: number, retentionId: number | null): Promise<void> {
	await db('mailbox').where({ id: mailboxId }).update({ retention_id: retentionId });
}

/** Sets the policy's period for a class. */
export async function putClassRetention(db: Db, of: RecordClass, retentionId: number | null): Promise<void> {
	if (retentionId === null)
		await db('class_retention')
			.where({ class: classNumber(of) })
			.delete();
	else
		await db('class_retention')
			.insert({ class: classNumber(of), retention_id: retentionId })
			.onConflict(['class'])
			.merge(['retention_id']);
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
	byClass?: Defaults['byClass'];
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
		byClass: whatIf.byClass ?? defaults.byClass
	});
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
