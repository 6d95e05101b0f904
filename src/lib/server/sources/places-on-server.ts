import { pathOnServer } from '../../../core/sources/operations.ts';
import type { Context } from '../context/index.ts';
import { withSource } from './connect.ts';
import { followedFolders } from './follow-store.ts';
import { pathsOn } from './look-through.ts';
import type { Source } from './sources-store.ts';

/**
 * How the server of a live mailbox names its folders.
 *
 * @throws ServerTrouble with a sentence
 */
export async function placesOnServer(
	context: Context,
	source: Source
): Promise<{
	folder: (path: string) => string;
	bin: string;
	archive: ((path: string | undefined) => string) | undefined;
}> {
	return withSource(context, source, async (client) => {
		const listed = await client.list();
		const paths = pathsOn(client, listed, source, await followedFolders(context.db, source.id));
		const bin = listed.find(({ path, specialUse }) => specialUse === '\\Trash' && paths.holds(path));
		const archive = (path: string | undefined) =>
			path ? [paths.archive, pathOnServer(path, paths.delimiter)].join(paths.delimiter) : paths.archive;
		return {
			folder: (path) => paths.there(path),
			bin: bin?.path ?? paths.there('Trash'),
			archive: source.archiveOn === 'server' ? archive : undefined
		};
	});
}
