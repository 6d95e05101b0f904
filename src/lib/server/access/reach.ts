import { foldersBelow, grantsOf, ownMailboxes } from './grants-store.ts';
import { ALL_MAIL, type Reach, reachedIds } from './reach-store.ts';
import { Refusal } from '../refusal.ts';
import { type Context, today } from '../context/index.ts';

/** A use of mail. */
export type Need = 'find' | 'restore';

/**
 * The reach of the person who acts: all mail for an administrator, none for an auditor, their own mailboxes and
 * today's grants for a colleague. Grants become a condition only here; everything that shows mail asks here.
 */
export async function reachOf(context: Context, need: Need): Promise<Reach> {
	const { db, actor } = context;
	if (actor.role === 'administrator') return ALL_MAIL;
	if (actor.role === 'auditor' || actor.personId === null) return { mailboxIds: [], folderIds: [] };
	const grants = (await grantsOf(db, actor.personId, today(context))).filter(({ mayFind, mayRestore }) =>
		need === 'find' ? mayFind : mayRestore
	);
	const own = await ownMailboxes(db, actor.personId);
	const whole = new Set([
		...own.map(({ id }) => id),
		...grants.filter(({ folderId }) => folderId === null).map(({ mailboxId }) => mailboxId)
	]);
	const folders = grants.flatMap(({ folderId, mailboxId }) =>
		folderId === null || whole.has(mailboxId) ? [] : [folderId]
	);
	return { mailboxIds: [...whole], folderIds: folders.length > 0 ? await foldersBelow(db, folders) : [] };
}

/** Those of the items within reach. */
export async function withinReach(context: Context, ids: readonly number[], need: Need): Promise<number[]> {
	return reachedIds(context.db, await reachOf(context, need), ids);
}

/** @throws Refusal if a message is not within reach; worded as for a missing one, which reveals nothing */
export async function requireReach(context: Context, id: number, need: Need): Promise<void> {
	if ((await withinReach(context, [id], need)).length === 0)
		throw new Refusal(
			'not-found',
			`There is no message ${id}${context.actor.role === 'administrator' ? '' : ' that you may see'}.`
		);
}
