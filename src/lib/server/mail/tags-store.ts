import { nextColour, type TagColour } from '../../../core/tags/colours.ts';
import { tagKey, tagNames } from '../../../core/tags/names.ts';
import { nameKey } from '../../../core/weigh/roles.ts';
import { type Db, empty, getSetting, putSetting, row, rows, sql } from '../database/index.ts';

/** A tag. */
export interface Tag {
	id: number;
	/** Nested by `/`. */
	name: string;
	colour: TagColour;
	/** Hidden in lists of tags. */
	hidden: boolean;
}

/** A tag with its number of live and archived items. */
export interface TagCount extends Tag {
	messages: number;
	bytes: number;
}

interface TagRow extends Omit<Tag, 'hidden'> {
	hidden: number;
}

const COLUMNS = sql`tag.id, tag.name, colour, hidden`;
const toTag = <T extends TagRow>({ hidden, ...tag }: T) => ({ ...tag, hidden: hidden === 1 });

/** All tags by name. */
export async function readTags(db: Db): Promise<Tag[]> {
	return (await rows<TagRow>(db, sql`SELECT ${COLUMNS} FROM tag ORDER BY tag.name_key`)).map(toTag);
}

/** All tags by name, with their counts, of one mailbox or all. */
export async function countTags(db: Db, mailboxId: number | undefined): Promise<TagCount[]> {
	const found = await rows<TagRow & { messages: number; bytes: number }>(
		db,
		sql`SELECT ${COLUMNS}, count(item.id) AS messages, ifnull(sum(item.bytes), 0) AS bytes
		 FROM tag LEFT JOIN item_tag ON tag_id = tag.id
			LEFT JOIN item ON item.id = item_id AND item.state IN ('live', 'archived') ${mailboxId === undefined ? empty : sql`AND item.mailbox_id = ${mailboxId}`}
		 GROUP BY tag.id ORDER BY tag.name_key`
	);
	return found.map(toTag);
}

/** The tag of that name, regardless of case and accents. */
export async function findTag(db: Db, name: string): Promise<Tag | undefined> {
	const found = await row<TagRow>(db, sql`SELECT ${COLUMNS} FROM tag WHERE name_key = ${tagKey(name)}`);
	return found && toTag(found);
}

/* The setting that keeps the highest number of a removed tag. */
const LAST_REMOVED = 'last-removed-tag';

/** The tag of that name, created if it is new. @throws Error if the name is empty */
export async function ensureTag(db: Db, name: string): Promise<Tag> {
	const known = await findTag(db, name);
	if (known) return known;
	const written = tagNames(name).join('/');
	if (written === '') throw new Error('A tag needs a name');
	const there = await row<{ n: number; last: number }>(
		db,
		sql`SELECT count(*) AS n, max(ifnull(max(id), 0), ifnull((SELECT CAST(value AS INTEGER) FROM setting WHERE key = ${LAST_REMOVED}), 0)) AS last FROM tag`
	);
	const colour = nextColour(there?.n ?? 0);
	// dockets know tags by their numbers: that of a removed one is not given again
	const id = (there?.last ?? 0) + 1;
	await db('tag').insert({ id, name: written, name_key: nameKey(written), colour });
	return { id, name: written, colour, hidden: false };
}

/** Changes a tag's colour or visibility. */
export async function putTag(db: Db, { id, colour, hidden }: Pick<Tag, 'id' | 'colour' | 'hidden'>): Promise<void> {
	await db('tag')
		.where({ id })
		.update({ colour, hidden: Number(hidden) });
}

/** Renames a tag and those nested below it. */
export async function renameTag(db: Db, tag: Tag, name: string): Promise<void> {
	const written = tagNames(name).join('/');
	for (const { id, name: old } of await rows<{ id: number; name: string }>(
		db,
		sql`SELECT id, name FROM tag WHERE id = ${tag.id} OR substr(name, 1, ${tag.name.length + 1}) = ${`${tag.name}/`}`
	)) {
		const next = written + old.slice(tag.name.length);
		await db('tag')
			.where({ id })
			.update({ name: next, name_key: nameKey(next) });
	}
}

/** The items with a tag, by mailbox. */
export async function itemsWithTag(db: Db, id: number): Promise<Map<number, number[]>> {
	const found = await rows<{ id: number; mailboxId: number }>(
		db,
		sql`SELECT item.id, mailbox_id AS mailboxId FROM item_tag CROSS JOIN item ON item.id = item_id
		 WHERE tag_id = ${id} AND state <> 'destroyed' ORDER BY item.id`
	);
	const mailboxes = new Map<number, number[]>();
	for (const item of found) {
		const ids = mailboxes.get(item.mailboxId);
		if (ids) ids.push(item.id);
		else mailboxes.set(item.mailboxId, [item.id]);
	}
	return mailboxes;
}

/** The names of tags that messages of a mailbox have. */
export async function tagsInMailbox(db: Db, mailboxId: number): Promise<string[]> {
	return (await countTags(db, mailboxId)).flatMap(({ name, hidden, messages }) =>
		hidden || messages === 0 ? [] : [name]
	);
}

/** The names of all tags. */
export async function listTagNames(db: Db): Promise<string[]> {
	return (await db('tag').orderBy('id').select('name')).map(({ name }) => name);
}

/** Removes a tag that no item has. */
export async function removeTag(db: Db, id: number): Promise<void> {
	const before = Number((await getSetting(db, LAST_REMOVED)) ?? 0);
	await putSetting(db, LAST_REMOVED, String(Math.max(before, id)));
	await db('item_tag').where({ tag_id: id }).delete();
	await db('tag').where({ id }).delete();
}

/** The tags of some items. */
export async function tagsOfItems(db: Db, ids: readonly number[]): Promise<Map<number, Tag[]>> {
	const found = await rows<TagRow & { itemId: number }>(
		db,
		sql`SELECT item_id AS itemId, ${COLUMNS} FROM json_each(${JSON.stringify(ids)}) wanted CROSS JOIN item_tag ON item_id = wanted.value
		 JOIN tag ON tag.id = tag_id ORDER BY tag.name_key`
	);
	const tags = new Map<number, Tag[]>();
	for (const { itemId, ...tag } of found) tags.set(itemId, [...(tags.get(itemId) ?? []), toTag(tag)]);
	return tags;
}
