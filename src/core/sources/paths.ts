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
	/** Where the account's own folders begin, as `INBOX.` (RFC 2342); empty: nowhere special. */
	prefix?: string | undefined;
	/** Where the mailboxes of others and shared ones begin (RFC 2342): no folder of the account's own. */
	ofOthers?: readonly string[];
	/** Folders that are followed already, wherever they lie. */
	followed?: readonly KnownPath[];
}

/** A folder of a server that is a folder here, whose path may be another one: it was renamed, or has the role of one here. */
export interface KnownPath {
	path: string;
	/** Its path here when the two were last the same, and its path here now. */
	pathHere: string;
	pathNow: string;
}

/* The nearest folder above another one that is known on the other side, and what of the path is below it. */
function nearestKnown(
	path: string,
	delimiter: string,
	known: (above: string) => string | undefined
): { above: string; rest: string } | undefined {
	if (delimiter === '') return undefined;
	for (let end = path.lastIndexOf(delimiter); end > 0; end = path.lastIndexOf(delimiter, end - 1)) {
		const above = known(path.slice(0, end));
		if (above !== undefined) return { above, rest: path.slice(end + delimiter.length) };
	}
	return undefined;
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
	/* The folder below which those of the mailbox lie; it is none of their levels here. */
	readonly #base: string;
	readonly #ofOthers: readonly string[];
	readonly #hereOf = new Map<string, string>();
	readonly #thereOf = new Map<string, string>();

	constructor(listed: readonly Listed[], { root = '', prefix = '', ofOthers = [], followed = [] }: MailboxThere = {}) {
		this.delimiter = listed[0]?.delimiter ?? '/';
		this.root = root;
		const isEnded = this.delimiter !== '' && prefix.endsWith(this.delimiter);
		this.#base = root === '' && isEnded ? prefix.slice(0, -this.delimiter.length) : root;
		this.#ofOthers = ofOthers;
		this.learn(followed);
		const inbox = root === '' ? 'INBOX' : this.#below('INBOX');
		const own = listed.map(({ path }) => path).find((path) => path.toUpperCase() === inbox.toUpperCase());
		// a shared mailbox may be its own inbox
		this.inbox = own ?? (root || 'INBOX');
		this.archive =
			listed.find(({ path, specialUse }) => specialUse === '\\Archive' && this.holds(path))?.path ??
			this.#below('Archive');
	}

	/** Notes which folders here the folders of the server are, in place of what was known. */
	learn(followed: readonly KnownPath[]): void {
		this.#hereOf.clear();
		this.#thereOf.clear();
		for (const one of followed) this.add(one);
	}

	/** Notes which folder here one of the server is. */
	add({ path, pathHere: former, pathNow }: KnownPath): void {
		this.#hereOf.set(path, pathNow);
		this.#thereOf.set(former, path);
	}

	#below(name: string): string {
		return this.#base === '' ? name : `${this.#base}${this.delimiter}${name}`;
	}

	/** Whether a folder belongs to the mailbox. */
	holds(path: string): boolean {
		if (this.root !== '') return isWithin(path, this.root, this.delimiter);
		const isOfOthers = this.#ofOthers.some((prefix) => `${path}${this.delimiter}`.startsWith(prefix));
		return !isOfOthers || this.#hereOf.has(path);
	}

	/** The path here of a folder there. */
	here(path: string): string {
		if (path === this.inbox) return 'Inbox';
		const known = this.#hereOf.get(path);
		if (known !== undefined) return known;
		// what lies below the root or the prefix is not below it here
		const near = nearestKnown(path, this.delimiter, (above) =>
			above === this.#base ? undefined : this.#hereOf.get(above)
		);
		if (near) {
			const rest = pathHere(near.rest, this.delimiter);
			return rest === '' ? '' : `${near.above}/${rest}`;
		}
		if (this.#base === '' || (this.root === '' && !isWithin(path, this.#base, this.delimiter)))
			return pathHere(path, this.delimiter);
		// the root beside an inbox of its own keeps its name
		const rest = path === this.#base ? (path.split(this.delimiter).at(-1) ?? path) : path.slice(this.#below('').length);
		return pathHere(rest, this.delimiter);
	}

	/** The path there of a folder here: the other way of {@link here}. */
	there(path: string): string {
		if (path === 'Inbox') return this.inbox;
		const known = this.#thereOf.get(path);
		if (known !== undefined) return known;
		const near =
			this.delimiter === ''
				? undefined
				: nearestKnown(path, '/', (above) => {
						const there = this.#thereOf.get(above);
						return this.root !== '' && there === this.root ? undefined : there;
					});
		if (near) return near.above + this.delimiter + pathOnServer(near.rest, this.delimiter);
		const own = pathOnServer(path, this.delimiter);
		return this.root === '' && path.startsWith('Inbox/') ? own : this.#below(own);
	}
}
