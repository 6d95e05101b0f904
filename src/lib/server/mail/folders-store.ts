import { type FolderRole, nameKey, roleOf } from '../../../core/weigh/roles.ts';
import type { FolderPlace } from '../../../core/weigh/tree.ts';
import {
	asRaw,
	change,
	type Condition,
	type Db,
	empty,
	idOf,
	inList,
	join,
	raw,
	rows,
	sql
} from '../database/index.ts';

/** The two folder trees of a mailbox. */
export type Tree = 'mailbox' | 'archive';

const COLUMNS = {
	id: 'id',
	parentId: 'parent_id',
	name: 'name',
	path: 'path',
	role: 'role',
	neverArchived: 'never_archived'
} as const;

/** The existing folders of one tree. */
export async function listFolders(db: Db, mailboxId: number, tree: Tree): Promise<FolderPlace[]> {
	return db('folder').where({ mailbox_id: mailboxId, tree, removed_at: null }).orderBy('id').select(COLUMNS);
}

/** The names in a path; blank names are dropped. */
export function pathNames(path: string): string[] {
	return path
		.split('/')
		.map((name) => name.trim())
		.filter((name) => name !== '');
}

async function childFolder(db: Db, mailboxId: number, tree: Tree, parentId: number | undefined, name: string) {
	return (
		db('folder')
			.where({ mailbox_id: mailboxId, tree, name_key: nameKey(name) })
			// as in the unique index
			.whereRaw('ifnull(parent_id, 0) = ?', parentId ?? 0)
			.first({ ...COLUMNS, removedAt: 'removed_at' } as const)
	);
}

/** The folder with that path, regardless of case and accents; undefined if there is none. */
export async function findFolder(
	db: Db,
	mailboxId: number,
	tree: Tree,
	path: string
): Promise<FolderPlace | undefined> {
	let folder: (FolderPlace & { removedAt: string | null }) | undefined;
	for (const name of pathNames(path)) {
		folder = await childFolder(db, mailboxId, tree, folder?.id, name);
		if (!folder || folder.removedAt !== null) return undefined;
	}
	return folder;
}

/** A path in the spelling of the folders that exist on it; names of new folders stay as they are given. */
export async function pathAsWritten(db: Db, mailboxId: number, tree: Tree, path: string): Promise<string> {
	let written = '';
	for (const name of pathNames(path)) {
		const above = written === '' ? name : `${written}/${name}`;
		written = (await findFolder(db, mailboxId, tree, above))?.path ?? above;
	}
	return written;
}

/** Sets whether the mail of a folder and its subfolders is never archived. */
export async function putNeverArchived(db: Db, id: number, isNever: boolean): Promise<void> {
	await db('folder')
		.where({ id })
		.update({ never_archived: Number(isNever) });
}

/** Whether an item is in the folder of its mailbox with this path, regardless of case and accents. */
export function liesIn(path: string): Condition {
	const keys = pathNames(path).map(nameKey).reverse();
	const level = (n: number) => raw(`level${n}`);
	const above = keys.slice(1).map((key, n) => {
		const [at, below] = [level(n + 1), level(n)];
		return sql`JOIN folder ${at} ON ${at}.id = ${below}.parent_id AND ${at}.name_key = ${key}`;
	});
	return sql`item.folder_id IN (SELECT level0.id FROM folder level0 ${above.length > 0 ? join(above, ' ') : empty}
		WHERE level0.mailbox_id = item.mailbox_id AND level0.tree = 'mailbox' AND level0.name_key = ${keys[0] ?? ''}
			AND ${level(Math.max(0, keys.length - 1))}.parent_id IS NULL)`;
}

/** The folder with that path, created with its parents if it is missing. A removed folder is restored. */
export async function ensureFolder(db: Db, mailboxId: number, tree: Tree, path: string): Promise<FolderPlace> {
	let parent: FolderPlace | undefined;
	for (const name of pathNames(path)) {
		const found = await childFolder(db, mailboxId, tree, parent?.id, name);
		if (found) {
			if (found.removedAt !== null) await db('folder').where({ id: found.id }).update({ removed_at: null });
			parent = found;
			continue;
		}
		const folder: Omit<FolderPlace, 'id'> = {
			parentId: parent?.id ?? null,
			name,
			path: parent ? `${parent.path}/${name}` : name,
			role: tree === 'mailbox' && !parent ? roleOf(name) : null,
			neverArchived: 0
		};
		const id = await idOf(
			db('folder').insert({
				mailbox_id: mailboxId,
				tree,
				parent_id: folder.parentId,
				name: folder.name,
				name_key: nameKey(name),
				path: folder.path,
				role: folder.role
			})
		);
		parent = { id, ...folder };
	}
	if (!parent) throw new Error('A folder needs a name');
	return parent;
}

/** The first folder of a mailbox with a role; undefined without one. */
export async function findRole(db: Db, mailboxId: number, role: FolderRole): Promise<FolderPlace | undefined> {
	return db('folder')
		.where({ mailbox_id: mailboxId, tree: 'mailbox', role, removed_at: null })
		.orderBy('id')
		.first(COLUMNS);
}

/**
 * The folders whose mail is on the desk: the inbox of each mailbox; of one without an inbox, all its folders.
 *
 * @param mailboxIds undefined: all mailboxes
 */
export async function deskFolders(db: Db, mailboxIds: readonly number[] | undefined): Promise<number[]> {
	const selected = mailboxIds === undefined ? sql`(SELECT id FROM mailbox)` : inList(mailboxIds);
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT id FROM folder WHERE mailbox_id IN ${selected} AND tree = 'mailbox' AND removed_at IS NULL AND (role = 'inbox'
			OR NOT EXISTS (SELECT 1 FROM folder inbox WHERE inbox.mailbox_id = folder.mailbox_id AND inbox.tree = 'mailbox'
				AND inbox.role = 'inbox' AND inbox.removed_at IS NULL))`
	);
	return found.map(({ id }) => id);
}

/** The folders with the role of a bin and those below them: mail that is found there is binned (invariant 1). */
export async function binFolders(db: Db, mailboxId: number): Promise<Set<number>> {
	const found = await rows<{ id: number }>(
		db,
		sql`WITH RECURSIVE bin (id) AS (
			SELECT id FROM folder WHERE mailbox_id = ${mailboxId} AND tree = 'mailbox' AND role = 'trash' AND parent_id IS NULL
			UNION SELECT folder.id FROM folder JOIN bin ON folder.parent_id = bin.id
		) SELECT id FROM bin`
	);
	return new Set(found.map(({ id }) => id));
}

/** The one bin of a mailbox (invariant 1), created if missing. */
export async function binOf(db: Db, mailboxId: number): Promise<FolderPlace> {
	return (await findRole(db, mailboxId, 'trash')) ?? ensureFolder(db, mailboxId, 'mailbox', 'Trash');
}

/** Restores removed folders, with their parents. */
export async function reviveFolders(db: Db, ids: readonly number[]): Promise<void> {
	await change(
		db,
		sql`WITH RECURSIVE above (id) AS (
			SELECT value FROM json_each(${JSON.stringify(ids)})
			UNION SELECT folder.parent_id FROM folder JOIN above ON folder.id = above.id WHERE folder.parent_id IS NOT NULL
		)
		UPDATE folder SET removed_at = NULL WHERE removed_at IS NOT NULL AND id IN (SELECT id FROM above)`
	);
}

/**
 * Removes empty folders of a mailbox's archive, subfolders considered; restores those that are not empty, as a
 * stopped docket may continue after they were removed. Their rows stay.
 */
export async function keepArchiveFoldersInUse(db: Db, mailboxId: number, at: string): Promise<void> {
	await change(
		db,
		sql`WITH RECURSIVE used (id) AS (
			SELECT DISTINCT folder_id FROM weight_by_month WHERE mailbox_id = ${mailboxId} AND state = 'archived'
			UNION SELECT folder.parent_id FROM folder JOIN used ON folder.id = used.id WHERE folder.parent_id IS NOT NULL
		)
		UPDATE folder SET removed_at = CASE WHEN removed_at IS NULL THEN ${at} END
		WHERE mailbox_id = ${mailboxId} AND tree = 'archive' AND (removed_at IS NULL) <> (id IN (SELECT id FROM used))`
	);
}

/** The folder and its subfolders. */
export async function folderWithBelow(db: Db, id: number): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`WITH RECURSIVE below (id) AS (
			VALUES (${id}) UNION ALL SELECT folder.id FROM folder JOIN below ON folder.parent_id = below.id
		) SELECT id FROM below`
	);
	return found.map((folder) => folder.id);
}

/** Moves a folder with its subfolders to another path. */
export async function putFolderPlace(
	db: Db,
	folder: FolderPlace,
	{ parentId, name, path }: Pick<FolderPlace, 'parentId' | 'name' | 'path'>
): Promise<void> {
	// a removed folder of that name keeps its row, for mail to be restored to it, and gives up the name
	await change(
		db,
		sql`UPDATE folder SET name_key = name_key || ' ' || id WHERE removed_at IS NOT NULL AND id <> ${folder.id} AND name_key = ${nameKey(name)}
			AND ifnull(parent_id, 0) = ${parentId ?? 0} AND (tree, mailbox_id) = (SELECT tree, mailbox_id FROM folder WHERE id = ${folder.id})`
	);
	const below = await folderWithBelow(db, folder.id);
	await db('folder')
		.where({ id: folder.id })
		.update({ parent_id: parentId, name, name_key: nameKey(name), path });
	await change(
		db,
		sql`UPDATE folder SET path = ${path} || substr(path, ${folder.path.length + 1}) WHERE id IN (SELECT value FROM json_each(${JSON.stringify(below)})) AND id <> ${folder.id}`
	);
}

/* Whether a folder and its subfolders are empty. */
const isEmpty = (mailboxId: number) => sql`folder.id NOT IN (
	WITH RECURSIVE used (id) AS (
		SELECT DISTINCT folder_id FROM weight_by_month WHERE mailbox_id = ${mailboxId} AND state <> 'archived'
		UNION SELECT above.parent_id FROM folder above JOIN used ON above.id = used.id WHERE above.parent_id IS NOT NULL
	) SELECT id FROM used)`;

/** Empty folders of a mailbox, subfolders considered, except those with a role. */
export async function emptyFolders(db: Db, mailboxId: number): Promise<FolderPlace[]> {
	return (
		db('folder')
			.where({ mailbox_id: mailboxId, tree: 'mailbox', removed_at: null, role: null })
			.where(asRaw(db, isEmpty(mailboxId)))
			// a pile is meant to become empty
			.whereNotIn('id', db('pile').select('folder_id'))
			.orderBy('path')
			.select(COLUMNS)
	);
}

/** Removes the empty ones of some folders with their subfolders. @returns their paths */
export async function removeEmptyFolders(
	db: Db,
	mailboxId: number,
	ids: readonly number[],
	at: string
): Promise<string[]> {
	const wanted = new Set<number>();
	for (const id of ids) for (const below of await folderWithBelow(db, id)) wanted.add(below);
	const empty = (await emptyFolders(db, mailboxId)).filter(({ id }) => wanted.has(id));
	await change(
		db,
		sql`UPDATE folder SET removed_at = ${at} WHERE id IN (SELECT value FROM json_each(${JSON.stringify(empty.map(({ id }) => id))}))`
	);
	return empty.map(({ path }) => path);
}

/** Folders by their numbers, with the names of their mailboxes. */
export async function foldersById(
	db: Db,
	ids: readonly number[]
): Promise<{ id: number; path: string; mailboxId: number; mailbox: string }[]> {
	return rows(
		db,
		sql`SELECT folder.id, path, mailbox_id AS mailboxId, mailbox.name AS mailbox FROM folder JOIN mailbox ON mailbox.id = mailbox_id
		 WHERE folder.id IN (SELECT value FROM json_each(${JSON.stringify(ids)})) ORDER BY mailbox.name_key, path`
	);
}
