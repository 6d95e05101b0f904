import type { ListResponse } from 'imapflow';
import { isWithin } from '../../../core/sources/paths.ts';
import type { Context } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import { type FollowedFolder, followedFolders, putFolderPath, removeFollowedFolders } from './follow-store.ts';
import { isRefusal, saidBy } from './imap.ts';
import type { Following } from './look-through.ts';

async function rename(
	context: Context,
	{ client, source, paths }: Following,
	folder: FollowedFolder
): Promise<string | undefined> {
	const to = paths.there(folder.pathNow);
	let path = to;
	let trouble: string | undefined;
	try {
		if (to !== folder.path) ({ newPath: path } = await client.mailboxRename(folder.path, to));
	} catch (error) {
		if (!isRefusal(error)) throw error;
		// said once: its name here stands, and its mail is followed as before
		trouble = `${source.host} did not rename ${folder.path} to ${to}: ${saidBy(client) ?? 'it gave no reason'}.`;
		path = folder.path;
	}
	await inTransaction(context.db, async (db) => {
		for (const one of await followedFolders(db, source.id)) {
			if (!isWithin(one.path, folder.path, paths.delimiter)) continue;
			const pathHere = isWithin(one.pathNow, folder.pathNow, '/') ? one.pathNow : one.pathHere;
			await putFolderPath(db, one.id, path + one.path.slice(folder.path.length), pathHere);
		}
		paths.learn(await followedFolders(db, source.id));
	});
	return trouble;
}

/* Only an empty folder is removed; one that somebody has put mail into stays, and is there again here. */
async function remove(
	context: Context,
	{ client, source }: Following,
	folder: FollowedFolder
): Promise<string | undefined> {
	const status = await client.status(folder.path, { messages: true });
	if (!status || (status.messages ?? 1) > 0) return undefined;
	try {
		await client.mailboxUnsubscribe(folder.path);
		await client.mailboxDelete(folder.path);
	} catch (error) {
		if (!isRefusal(error)) throw error;
		return `${source.host} did not remove ${folder.path}: ${saidBy(client) ?? 'it gave no reason'}.`;
	}
	await inTransaction(context.db, (db) => removeFollowedFolders(db, [folder.id]));
	return undefined;
}

/**
 * Renames and removes folders on a server as was done here.
 *
 * @param listed the folders of the server
 * @returns what the server refused, and whether anything was changed there
 */
export async function carryFolders(
	context: Context,
	following: Following,
	listed: readonly ListResponse[]
): Promise<{ isChanged: boolean; errors: string[] }> {
	const there = new Set(listed.map(({ path }) => path));
	const done = new Set<number>();
	const errors: string[] = [];
	// those above come first, and take those below along
	for (;;) {
		const folder = (await followedFolders(context.db, following.source.id)).find(
			({ id, pathNow, pathHere, isRemoved }) => !done.has(id) && (isRemoved || pathNow !== pathHere)
		);
		if (!folder) break;
		done.add(folder.id);
		const holdsOthers = [...there].some(
			(path) => path !== folder.path && isWithin(path, folder.path, following.paths.delimiter)
		);
		if (folder.isRemoved && holdsOthers) continue;
		const trouble = await (folder.isRemoved ? remove(context, following, folder) : rename(context, following, folder));
		there.delete(folder.path);
		if (trouble) errors.push(trouble);
	}
	return { isChanged: done.size > 0, errors };
}
