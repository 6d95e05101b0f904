import { existsSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';

/** A message in a folder of the stand-in. */
export interface StoredMail {
	uid: number;
	flags: string[];
	/** Milliseconds since 1970. */
	date: number;
	bytes: number;
	/** The name of the file with its bytes. */
	file: string;
}

/** A folder of the stand-in. */
export interface StoredFolder {
	uidValidity: number;
	uidNext: number;
	specialUse?: string;
	mails: StoredMail[];
}

interface Index {
	nextFile: number;
	nextValidity: number;
	folders: Record<string, StoredFolder>;
}

const SPECIAL: [name: string, use: string | undefined][] = [
	['INBOX', undefined],
	['Sent', '\\Sent'],
	['Drafts', '\\Drafts'],
	['Junk', '\\Junk'],
	['Trash', '\\Trash']
];

/** The mail of one account in a folder of files: an index, and a file a message. For a few thousand messages. */
export class MailStore {
	readonly #folder: string;
	readonly #index: Index;
	/** The quota in bytes; its server counts in units of 1024 (RFC 9208). */
	readonly quotaBytes: number;
	/* Who wants to know what changes. */
	readonly #listeners = new Set<(folder: string) => void>();

	constructor(folder: string, quotaBytes: number) {
		this.#folder = folder;
		this.quotaBytes = quotaBytes;
		mkdirSync(folder, { recursive: true });
		this.#index = existsSync(this.#file)
			? (JSON.parse(readFileSync(this.#file, 'utf8')) as Index)
			: { nextFile: 1, nextValidity: 1, folders: {} };
		for (const [name, use] of SPECIAL) if (!this.folder(name)) this.create(name, use);
	}

	get #file(): string {
		return path.join(this.#folder, 'index.json');
	}

	#save(changed: string): void {
		writeFileSync(`${this.#file}.new`, JSON.stringify(this.#index));
		renameSync(`${this.#file}.new`, this.#file);
		for (const tell of this.#listeners) tell(changed);
	}

	/** Tells of each change, by the path of the folder. @returns what ends it */
	listen(tell: (folder: string) => void): () => void {
		this.#listeners.add(tell);
		return () => void this.#listeners.delete(tell);
	}

	get paths(): string[] {
		return Object.keys(this.#index.folders);
	}

	get usedBytes(): number {
		return Object.values(this.#index.folders).reduce(
			(sum, { mails }) => sum + mails.reduce((all, { bytes }) => all + bytes, 0),
			0
		);
	}

	/** The folder with that path; INBOX in any case (RFC 3501 section 5.1). */
	folder(name: string): StoredFolder | undefined {
		return this.#index.folders[name.toUpperCase() === 'INBOX' ? 'INBOX' : name];
	}

	/** Makes a folder with those above it. @returns whether it is new */
	create(name: string, specialUse?: string): boolean {
		if (this.folder(name)) return false;
		const names = name.split('/');
		for (let depth = 1; depth <= names.length; depth++) {
			const at = names.slice(0, depth).join('/');
			if (!this.folder(at))
				this.#index.folders[at] = {
					uidValidity: this.#index.nextValidity++,
					uidNext: 1,
					...(specialUse !== undefined && at === name ? { specialUse } : {}),
					mails: []
				};
		}
		this.#save(name);
		return true;
	}

	/** Renames a folder with those below it. */
	rename(from: string, to: string): void {
		const renamed = Object.entries(this.#index.folders).map(([name, folder]) => [
			name === from || name.startsWith(`${from}/`) ? to + name.slice(from.length) : name,
			folder
		]);
		this.#index.folders = Object.fromEntries(renamed) as Index['folders'];
		this.#save(to);
	}

	/** Removes a folder with its mail. */
	remove(name: string): void {
		for (const { file } of this.folder(name)?.mails ?? []) rmSync(path.join(this.#folder, file), { force: true });
		delete this.#index.folders[name];
		this.#save(name);
	}

	/** Puts a message into a folder. @returns its number there */
	append(name: string, bytes: Buffer, flags: readonly string[], date: number): number {
		return this.appendAll(name, [{ bytes, flags, date }])[0] ?? 0;
	}

	/** Puts messages into a folder. @returns their numbers there */
	appendAll(name: string, mails: readonly { bytes: Buffer; flags: readonly string[]; date: number }[]): number[] {
		this.create(name);
		const folder = this.folder(name) as StoredFolder;
		const uids = mails.map(({ bytes, flags, date }) => {
			const file = `${this.#index.nextFile++}.eml`;
			writeFileSync(path.join(this.#folder, file), bytes);
			folder.mails.push({ uid: folder.uidNext, flags: [...flags], date, bytes: bytes.length, file });
			return folder.uidNext++;
		});
		this.#save(name);
		return uids;
	}

	read({ file }: StoredMail): Buffer {
		return readFileSync(path.join(this.#folder, file));
	}

	/** Notes that flags of messages in a folder were changed. */
	flagged(name: string): void {
		this.#save(name);
	}

	/** Removes messages of a folder for good. */
	expunge(name: string, uids: ReadonlySet<number>): void {
		const folder = this.folder(name);
		if (!folder) return;
		for (const mail of folder.mails)
			if (uids.has(mail.uid)) rmSync(path.join(this.#folder, mail.file), { force: true });
		folder.mails = folder.mails.filter(({ uid }) => !uids.has(uid));
		this.#save(name);
	}

	/** Moves messages to another folder. @returns their numbers before and after */
	move(from: string, to: string, uids: ReadonlySet<number>): [before: number, after: number][] {
		const source = this.folder(from);
		const target = this.folder(to);
		if (!source || !target) return [];
		const moved = source.mails
			.filter(({ uid }) => uids.has(uid))
			.map((mail): [number, number] => {
				target.mails.push({ ...mail, uid: target.uidNext });
				return [mail.uid, target.uidNext++];
			});
		source.mails = source.mails.filter(({ uid }) => !uids.has(uid));
		this.#save(from);
		this.#save(to);
		return moved;
	}
}
