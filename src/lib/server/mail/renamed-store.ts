import { type Followed, renamePath, type Renamed, renameInSearch } from '../../../core/search/renamed.ts';
import { type Decision, treeOf } from '../../../core/docket/decisions.ts';
import type { Actor } from '../../../core/access/roles.ts';
import { reachCondition, reachOf } from '../access/index.ts';
import type { Context } from '../context/index.ts';
import { type Db, row, rows, sql } from '../database/index.ts';
import type { Tree } from './folders-store.ts';

/** A folder or a tag that got another path, with its number. A tag is one of all mailboxes. */
export type RenamedPlace = Renamed & { id: number } & ({ of: 'tag' } | { of: 'folder'; mailboxId: number; tree: Tree });

interface Filed {
	folder?: string;
	tag?: string;
	tags?: string[];
}

/* The options of a decision, or where a mail is filed, as JSON. */
function renameInOptions(json: string, renamed: RenamedPlace, tree: Tree): string {
	const filed = JSON.parse(json) as Filed;
	const since = (path: string) => renamePath(path, renamed) ?? path;
	if (renamed.of === 'tag') {
		if (filed.tag !== undefined) filed.tag = since(filed.tag);
		if (filed.tags !== undefined) filed.tags = filed.tags.map(since);
	} else if (filed.folder !== undefined && renamed.tree === tree) filed.folder = since(filed.folder);
	return JSON.stringify(filed);
}

/* All other folders or tags, for searches that mean one of those as well. */
async function otherPaths(db: Db, renamed: RenamedPlace): Promise<{ path: string; mailboxId: number | null }[]> {
	if (renamed.of === 'tag')
		return (await rows<{ path: string }>(db, sql`SELECT name AS path FROM tag`))
			.filter(({ path }) => renamePath(path, { ...renamed, from: renamed.to }) === undefined)
			.map(({ path }) => ({ path, mailboxId: null }));
	const found = await rows<{ path: string; mailboxId: number; tree: Tree }>(
		db,
		sql`SELECT path, mailbox_id AS mailboxId, tree FROM folder`
	);
	return found.filter(
		({ path, mailboxId, tree }) =>
			mailboxId !== renamed.mailboxId ||
			tree !== renamed.tree ||
			renamePath(path, { ...renamed, from: renamed.to }) === undefined
	);
}

const inItsMailboxes = (renamed: RenamedPlace) =>
	renamed.of === 'tag' ? sql`1` : sql`mailbox_id = ${renamed.mailboxId}`;

async function followInDecisions(db: Db, renamed: RenamedPlace, others: readonly string[]): Promise<number> {
	let followed = 0;
	for (const { id, decision, ...was } of await rows<{ id: number; query: string; decision: Decision; options: string }>(
		db,
		sql`SELECT id, query, decision, options FROM rule WHERE removed_at IS NULL AND ${inItsMailboxes(renamed)}`
	)) {
		const query = renameInSearch(was.query, renamed, others);
		const options = renameInOptions(was.options, renamed, treeOf(decision));
		if (query === was.query && options === was.options) continue;
		await db('rule').where({ id }).update({ query, options });
		followed++;
	}
	return followed;
}

/* Whether somebody finds mail that lies in the folder or has the tag: nobody else may learn its new name (invariant 20). */
async function mayLearnName({ db, ...context }: Context, actor: Actor, renamed: RenamedPlace): Promise<boolean> {
	const reach = await reachOf({ ...context, db, actor }, 'find');
	const within = reachCondition(reach);
	if (within === undefined) return true;
	if (renamed.of === 'tag')
		return (
			(await row(
				db,
				sql`SELECT 1 FROM item_tag JOIN item ON item.id = item_id WHERE tag_id = ${renamed.id} AND item.state <> 'destroyed' AND ${within} LIMIT 1`
			)) !== undefined
		);
	return (
		(reach.mailboxIds !== 'all' && reach.mailboxIds.includes(renamed.mailboxId)) || reach.folderIds.includes(renamed.id)
	);
}

async function followInSearches(context: Context, renamed: RenamedPlace, others: readonly string[]): Promise<number> {
	const { db } = context;
	let followed = 0;
	for (const { id, question, ...actor } of await rows<{ id: number; question: string } & Actor>(
		db,
		sql`SELECT saved_search.id, question, person.id AS personId, person.name, role FROM saved_search JOIN person ON person.id = person_id`
	)) {
		const asked = new URLSearchParams(question);
		const was = asked.get('q') ?? '';
		// that of a colleague tells nothing of folders elsewhere
		const since = renameInSearch(was, renamed, actor.role === 'administrator' ? others : undefined);
		if (since === was || !(await mayLearnName(context, actor, renamed))) continue;
		asked.set('q', since);
		await db('saved_search').where({ id }).update({ question: asked.toString() });
		followed++;
	}
	return followed;
}

/* Draft dockets, and mail that is written here and not yet filed. */
async function followInUnfinished(db: Db, renamed: RenamedPlace): Promise<void> {
	for (const { id, decision, options } of await rows<{ id: number; decision: Decision; options: string }>(
		db,
		sql`SELECT docket_line.id, decision, options FROM docket_line JOIN docket ON docket.id = docket_id
			WHERE state = 'drafted' AND ${inItsMailboxes(renamed)}`
	)) {
		const since = renameInOptions(options, renamed, treeOf(decision));
		if (since !== options) await db('docket_line').where({ id }).update({ options: since });
	}
	for (const { id, filing } of await rows<{ id: number; filing: string }>(
		db,
		sql`SELECT id, filing FROM outgoing WHERE is_filed = 0 AND state <> 'discarded' AND ${inItsMailboxes(renamed)}`
	)) {
		const since = renameInOptions(filing, renamed, 'mailbox');
		if (since !== filing) await db('outgoing').where({ id }).update({ filing: since });
	}
}

async function followInDigest(db: Db, renamed: RenamedPlace): Promise<void> {
	if (renamed.of === 'tag' || renamed.tree === 'archive') return;
	const mailbox = await db('mailbox').where({ id: renamed.mailboxId }).first({ folder: 'digest_folder' });
	const since = mailbox && renamePath(mailbox.folder, renamed);
	if (since !== undefined) await db('mailbox').where({ id: renamed.mailboxId }).update({ digest_folder: since });
}

/**
 * Has all that names a folder or a tag by its path name it by the new one: standing decisions, saved searches, draft
 * dockets, mail that is not yet filed, and the digest. The old name would be made a second time, and a standing decision
 * about all mail but that of a folder would take that mail as well.
 *
 * @param renamed after it was renamed
 */
export async function followRename(context: Context, renamed: RenamedPlace): Promise<Followed> {
	const { db } = context;
	const others = await otherPaths(db, renamed);
	const own = others.filter(({ mailboxId }) => renamed.of === 'tag' || mailboxId === renamed.mailboxId);
	const decisions = await followInDecisions(
		db,
		renamed,
		own.map(({ path }) => path)
	);
	const searches = await followInSearches(
		context,
		renamed,
		others.map(({ path }) => path)
	);
	await followInUnfinished(db, renamed);
	await followInDigest(db, renamed);
	return { decisions, searches };
}
