import type { ImapFlow } from 'imapflow';
import { pathOnServer } from '../../../core/sources/operations.ts';
import type { Context } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import { ensureFolder } from '../mail/index.ts';
import { addFollowedFolder, followedFolders, numberingOf } from './follow-store.ts';
import { type Following, isLeftOut } from './look-through.ts';

/** The folders of a server on which Kovrel writes, by their paths there and by the folders that they are here. */
export class ServerFolders {
	readonly #context: Context;
	readonly #client: ImapFlow;
	readonly #following: Following;
	readonly #numbers = new Map<string, number>();
	readonly #paths = new Map<number, string>();
	/* Paths here by those that they get there, which may be written otherwise ("2.5" as "2_5"). */
	readonly #wanted = new Map<string, string>();

	constructor(context: Context, following: Following) {
		this.#context = context;
		this.#client = following.client;
		this.#following = following;
	}

	/** Reads what is known of them. */
	async learn(): Promise<void> {
		for (const { id, path, folderId } of await followedFolders(this.#context.db, this.#following.source.id)) {
			this.#numbers.set(path, id);
			this.#paths.set(folderId, path);
		}
	}

	/** The path on the server of a folder of the mailbox. */
	pathOf(folderId: number, path: string): string {
		const known = this.#paths.get(folderId);
		if (known !== undefined) return known;
		const there = this.#following.paths.there(path);
		this.#wanted.set(there, path);
		return there;
	}

	/** The path on the server of a folder of the archive (RFC 6154). */
	archivePathOf(path: string): string {
		const { archive, delimiter } = this.#following.paths;
		return [archive, pathOnServer(path, delimiter)].join(delimiter);
	}

	/**
	 * The number of a folder, which is made and subscribed where it is missing.
	 *
	 * @returns undefined for one that is left out: what lies there is not followed
	 * @throws what the server says, if it refuses
	 */
	async require(path: string): Promise<number | undefined> {
		const { source, mailbox, paths } = this.#following;
		if (isLeftOut(path, paths.delimiter, source)) return undefined;
		const known = this.#numbers.get(path);
		if (known !== undefined) return known;
		const made = await this.#client.mailboxCreate(path);
		const { uidValidity } = (await this.#client.status(made.path, { uidValidity: true })) || {};
		const id = await inTransaction(this.#context.db, async (db) => {
			// a folder of the archive there is a folder of the mailbox here, as of any other server's folder
			const place = await ensureFolder(db, mailbox.id, 'mailbox', this.#wanted.get(path) ?? paths.here(path));
			return addFollowedFolder(db, {
				sourceId: source.id,
				path: made.path,
				folderId: place.id,
				pathHere: place.path,
				uidValidity: String(uidValidity ?? '')
			});
		});
		this.#numbers.set(path, id);
		return id;
	}

	/** Opens a folder for writing. @returns its number; undefined: its messages were numbered anew, and a look comes first */
	async open(path: string): Promise<number | undefined> {
		const id = this.#numbers.get(path);
		const { uidValidity } = await this.#client.mailboxOpen(path);
		if (id === undefined) return undefined;
		const before = await numberingOf(this.#context.db, id);
		return before === String(uidValidity) ? id : undefined;
	}
}
