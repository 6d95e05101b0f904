import { pathOnServer } from './operations.ts';
import { pathHere } from './server.ts';

/** Whether a folder is another one, or lies below it. */
export const isWithin = (path: string, above: string, delimiter: string): boolean =>
	path === above || path.startsWith(`${above}${delimiter}`);

/** A folder of a server, as it is listed. */
interface Listed {
	path: string;
	delimiter: string;
	/** RFC 6154. */
	specialUse?: string | undefined;
}

/** Which of the folders of an account are a mailbox. */
export interface MailboxThere {
	/** The folder that is the mailbox, with those below it; empty: all of the account's own. */
	root?: string;
	/** Where the mailboxes of others and shared ones begin (RFC 2342): no folder of the account's own. */
	ofOthers?: readonly string[];
	/** Folders that are followed already, wherever they lie. */
	followed?: ReadonlySet<string>;
}

/**
 * Which folders of a server are a mailbox, and their paths there and here: all of its account's own, or one folder with
 * those below it that the account may see (a shared mailbox).
 */
export class ServerPaths {
	/** What parts the levels of a path there. */
	readonly delimiter: string;
	/** The folder that is the mailbox; empty: all of the account's. */
	readonly root: string;
	/** Where new mail arrives there. */
	readonly inbox: string;
	/** The archive folder there (RFC 6154). */
	readonly archive: string;
	readonly #ofOthers: readonly string[];
	readonly #followed: ReadonlySet<string>;

	constructor(listed: readonly Listed[], { root = '', ofOthers = [], followed = new Set() }: MailboxThere = {}) {
		this.delimiter = listed[0]?.delimiter ?? '/';
		this.root = root;
		this.#ofOthers = ofOthers;
		this.#followed = followed;
		const own = listed
			.map(({ path }) => path)
			.find((path) => path.toUpperCase() === this.#below('INBOX').toUpperCase());
		// a shared mailbox may be its own inbox
		this.inbox = own ?? (root || 'INBOX');
		this.archive =
			listed.find(({ path, specialUse }) => specialUse === '\\Archive' && this.holds(path))?.path ??
			this.#below('Archive');
	}

	#below(name: string): string {
		return this.root === '' ? name : `${this.root}${this.delimiter}${name}`;
	}

	/** Whether a folder belongs to the mailbox. */
	holds(path: string): boolean {
		if (this.root !== '') return isWithin(path, this.root, this.delimiter);
		const isOfOthers = this.#ofOthers.some((prefix) => `${path}${this.delimiter}`.startsWith(prefix));
		return !isOfOthers || this.#followed.has(path);
	}

	/** The path here of a folder there. */
	here(path: string): string {
		if (path === this.inbox) return 'Inbox';
		if (this.root === '') return pathHere(path, this.delimiter);
		// the root beside an inbox of its own keeps its name
		const rest = path === this.root ? (path.split(this.delimiter).at(-1) ?? path) : path.slice(this.#below('').length);
		return pathHere(rest, this.delimiter);
	}

	/** The path there of a folder here: the other way of {@link here}. */
	there(path: string): string {
		return path === 'Inbox' ? this.inbox : this.#below(pathOnServer(path, this.delimiter));
	}
}
