import type { ImapFlow, ListResponse } from 'imapflow';
import { pathOnServer } from '../../../core/sources/operations.ts';
import type { Context } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import { addFollowedFolder, followedFolders, numberingOf } from './follow-store.ts';
import type { Following } from './look-through.ts';

/** The folders of a server on which Kovrel writes, by their paths there and by the folders that they are here. */
export class ServerFolders {
	readonly #context: Context;
	readonly #client: ImapFlow;
	readonly #sourceId: number;
	readonly #delimiter: string;
	readonly #archive: string;
	readonly #numbers = new Map<string, number>();
	readonly #paths = new Map<number, string>();

	/** @param listed the folders of the server */
	constructor(context: Context, { client, source }: Following, listed: readonly ListResponse[]) {
		this.#context = context;
		this.#client = client;
		this.#sourceId = source.id;
		this.#delimiter = listed[0]?.delimiter ?? '/';
		this.#archive = listed.find(({ specialUse }) => specialUse === '\\Archive')?.path ?? 'Archive';
	}

	/** Reads what is known of them. */
	async learn(): Promise<void> {
		for (const { id, path, folderId } of await followedFolders(this.#context.db, this.#sourceId)) {
			this.#numbers.set(path, id);
			this.#paths.set(folderId, path);
		}
	}

	/** The path on the server of a folder of the mailbox. */
	pathOf(folderId: number, path: string): string {
		return this.#paths.get(folderId) ?? pathOnServer(path, this.#delimiter);
	}

	/** The path on the server of a folder of the archive (RFC 6154). */
	archivePathOf(path: string): string {
		return [this.#archive, pathOnServer(path, this.#delimiter)].join(this.#delimiter);
	}

	/**
	 * The number of a folder, which is made and subscribed where it is missing.
	 *
	 * @param here the folder that it is here
	 * @throws what the server says, if it refuses
	 */
	async require(path: string, here: { folderId: number; path: string }): Promise<number> {
		const known = this.#numbers.get(path);
		if (known !== undefined) return known;
		const made = await this.#client.mailboxCreate(path);
		const { uidValidity } = (await this.#client.status(made.path, { uidValidity: true })) || {};
		const id = await inTransaction(this.#context.db, (db) =>
			addFollowedFolder(db, {
				sourceId: this.#sourceId,
				path: made.path,
				folderId: here.folderId,
				pathHere: here.path,
				uidValidity: String(uidValidity ?? '')
			})
		);
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
