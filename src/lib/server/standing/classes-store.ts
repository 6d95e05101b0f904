import { type ClassFields, type ClassWord, type RecordClass, UNCLASSED } from '../../../core/retention/classes.ts';
import { nameKey } from '../../../core/weigh/roles.ts';
import { type Db, empty, idOf, row, rows, sql } from '../database/index.ts';

/** The classes of the office, in the order in which they were made; those removed are none. */
export async function listClasses(db: Db): Promise<RecordClass[]> {
	const found = await db('record_class').whereNull('removed_at').orderBy('id').select('id', 'word', 'name', 'letter', {
		isProtected: 'is_protected',
		quotaBytes: 'quota_bytes',
		retentionId: 'retention_id'
	});
	return found.map((of) => ({ ...of, isProtected: of.isProtected === 1, quotaBytes: of.quotaBytes ?? undefined }));
}

/** The class with that word; one that was removed has none. */
export async function findClass(db: Db, word: ClassWord): Promise<RecordClass | undefined> {
	return (await listClasses(db)).find((of) => of.word === word);
}

/**
 * Stores a class.
 *
 * @param word a new one is added; one that was removed is in use again
 */
export async function putClass(
	db: Db,
	word: ClassWord,
	{ name, letter, isProtected, quotaBytes, retentionId }: ClassFields & Pick<RecordClass, 'retentionId'>
): Promise<void> {
	const set = {
		name: name.trim(),
		name_key: nameKey(name),
		letter: letter.trim(),
		is_protected: Number(isProtected),
		quota_bytes: quotaBytes ?? null,
		retention_id: retentionId,
		removed_at: null
	};
	const known = await db('record_class').where({ word }).first('id');
	await (known ? db('record_class').where({ word }).update(set) : idOf(db('record_class').insert({ word, ...set })));
}

/** Removes a class from the schedule; its word stays, for what was decided with it. */
export async function removeClass(db: Db, word: ClassWord, at: string): Promise<void> {
	await db('record_class').where({ word }).update({ removed_at: at, retention_id: null, quota_bytes: null });
	await db('class_quota').whereIn('class', db('record_class').where({ word }).select('id')).delete();
}

/** The places that use each class: folders, names, and messages classed one by one or by their folder. */
export async function usesOfClasses(db: Db): Promise<Map<ClassWord, { places: number; messages: number }>> {
	const found = await rows<{ word: string; places: number; messages: number }>(
		db,
		// unclassed mail is nearly all mail, and its class is never removed: it is not counted
		sql`SELECT word, (SELECT count(*) FROM folder WHERE folder.class = record_class.id)
			+ (SELECT count(*) FROM named_retention WHERE named_retention.class = record_class.id) AS places,
			CASE WHEN word = ${UNCLASSED} THEN 0 ELSE (SELECT count(*) FROM item WHERE item.class = record_class.id AND item.class > 1)
				+ (SELECT count(*) FROM item WHERE item.own_class = record_class.id AND item.class <> record_class.id) END AS messages
		 FROM record_class WHERE removed_at IS NULL`
	);
	return new Map(found.map(({ word, ...uses }) => [word, uses]));
}

/** A mailbox's own quota of a class: it replaces the class's. Null: the class's applies again. */
export async function putClassQuota(db: Db, mailboxId: number, classId: number, bytes: number | null): Promise<void> {
	const at = { mailbox_id: mailboxId, class: classId };
	if (bytes === null) await db('class_quota').where(at).delete();
	else
		await db('class_quota')
			.insert({ ...at, bytes })
			.onConflict(['mailbox_id', 'class'])
			.merge(['bytes']);
}

/** The quota of a class in a mailbox, and its weight there. */
export interface ClassWeight extends Pick<RecordClass, 'id' | 'word' | 'name'> {
	bytes: number;
	/** Undefined: no quota. */
	quotaBytes: number | undefined;
	/** Whether the mailbox has a quota of its own for it. */
	isOwn: boolean;
}

/** The weight of each class but the unclassed in a mailbox, and its quota there. */
export async function weighClasses(db: Db, mailboxId: number): Promise<ClassWeight[]> {
	const found = await rows<Omit<ClassWeight, 'isOwn' | 'quotaBytes'> & { quotaBytes: number | null; isOwn: number }>(
		db,
		sql`SELECT record_class.id, word, name, ifnull(class_quota.bytes, quota_bytes) AS quotaBytes, class_quota.bytes IS NOT NULL AS isOwn,
			(SELECT ifnull(sum(item.bytes), 0) FROM item WHERE item.class = record_class.id AND item.class > 1 AND item.mailbox_id = ${mailboxId}) AS bytes
		 FROM record_class LEFT JOIN class_quota ON class_quota.class = record_class.id AND class_quota.mailbox_id = ${mailboxId}
		 WHERE removed_at IS NULL AND word <> ${UNCLASSED} ORDER BY record_class.id`
	);
	return found.map(({ quotaBytes, isOwn, ...of }) => ({
		...of,
		quotaBytes: quotaBytes ?? undefined,
		isOwn: isOwn === 1
	}));
}

/**
 * The weight that a line's frozen items would add to a class.
 *
 * @param byFolder the class is that of a folder they come to: what is classed by itself, or a record, stays as it is
 */
export async function weighAdded(db: Db, lineId: number, classId: number, byFolder: boolean): Promise<number> {
	const found = await row<{ bytes: number }>(
		db,
		sql`SELECT ifnull(sum(item.bytes), 0) AS bytes FROM docket_item CROSS JOIN item ON item.id = item_id
		 WHERE line_id = ${lineId} AND item.class <> ${classId} ${
				byFolder
					? sql`AND item.own_class IS NULL AND item.class NOT IN (SELECT id FROM record_class WHERE is_protected = 1)`
					: empty
			}`
	);
	return found?.bytes ?? 0;
}

/** The folders with most mail of a class. */
export async function largestOfClass(
	db: Db,
	mailboxId: number,
	classId: number,
	limit: number
): Promise<{ path: string; bytes: number }[]> {
	return rows(
		db,
		sql`SELECT folder.path, sum(bytes) AS bytes FROM item JOIN folder ON folder.id = item.folder_id
		 WHERE item.mailbox_id = ${mailboxId} AND item.class = ${classId} AND item.class > 1 GROUP BY folder.id ORDER BY 2 DESC LIMIT ${limit}`
	);
}
