import { createServer, type Server, type Socket } from 'node:net';
import type { MailStore, StoredFolder, StoredMail } from './store.ts';
import { inSet, literalOf, readDateTime, showDateTime, type Word, wordsOf } from './words.ts';

/*
 * A mail server of the demo: as much of IMAP (RFC 3501, with IDLE, MOVE, UIDPLUS, QUOTA, NAMESPACE and SPECIAL-USE) as a
 * client needs that fetches, marks, moves and removes by UID. It listens on loopback, and forgives nothing it does not know.
 */

const CAPABILITIES = 'IMAP4rev1 IDLE MOVE UIDPLUS QUOTA NAMESPACE SPECIAL-USE LITERAL+ ID';
const LONGEST_LINE = 100_000;
const LARGEST_MESSAGE = 50_000_000;

/** What a command is answered: lines, and the last one without its tag. */
interface Answered {
	lines?: (string | Buffer)[];
	ends?: string;
}
type Command = (session: Session, words: Word[]) => Answered;

class Refused extends Error {}

const text = (word: Word | undefined): string => {
	if (typeof word !== 'string') throw new Refused('BAD A word is missing');
	return word;
};
const list = (word: Word | undefined): string[] => (Array.isArray(word) ? word.map(text) : [text(word)]);
const quoted = (name: string) => `"${name.replace(/["\\]/g, '\\$&')}"`;

/** One connection. */
class Session {
	readonly store: MailStore;
	readonly account: { user: string; password: string };
	isSignedIn = false;
	selected: { path: string; readOnly: boolean } | undefined;

	constructor(store: MailStore, account: { user: string; password: string }) {
		this.store = store;
		this.account = account;
	}

	signIn(user: string, password: string): Answered {
		if (user !== this.account.user || password !== this.account.password)
			throw new Refused('NO [AUTHENTICATIONFAILED] Wrong user or password');
		this.isSignedIn = true;
		return { ends: 'OK Signed in' };
	}

	folder(name: string): StoredFolder {
		const found = this.store.folder(name);
		if (!found) throw new Refused('NO [NONEXISTENT] There is no such folder');
		return found;
	}

	/** The folder that is open. */
	open(writes = false): { path: string; folder: StoredFolder } {
		if (!this.selected) throw new Refused('BAD No folder is open');
		if (writes && this.selected.readOnly) throw new Refused('NO [READ-ONLY] The folder is open for reading only');
		return { path: this.selected.path, folder: this.folder(this.selected.path) };
	}

	/** The messages of the open folder with numbers in a set. */
	mails(set: string): StoredMail[] {
		const { mails } = this.open().folder;
		const highest = mails.at(-1)?.uid ?? 0;
		return mails.filter(({ uid }) => inSet(set, uid, highest));
	}
}

const statusOf = (folder: StoredFolder, items: readonly string[]) =>
	items
		.map((item) => {
			const known: Record<string, number> = {
				MESSAGES: folder.mails.length,
				UIDNEXT: folder.uidNext,
				UIDVALIDITY: folder.uidValidity,
				UNSEEN: folder.mails.filter(({ flags }) => !flags.includes('\\Seen')).length,
				RECENT: 0
			};
			const value = known[item.toUpperCase()];
			if (value === undefined) throw new Refused(`BAD ${item} is not known`);
			return `${item.toUpperCase()} ${value}`;
		})
		.join(' ');

function select(readOnly: boolean): Command {
	return (session, [name]) => {
		const folder = session.folder(text(name));
		session.selected = { path: text(name), readOnly };
		return {
			lines: [
				`* ${folder.mails.length} EXISTS`,
				'* 0 RECENT',
				'* FLAGS (\\Seen \\Answered \\Flagged \\Draft \\Deleted)',
				`* OK [PERMANENTFLAGS (${readOnly ? '' : '\\Seen \\Answered \\Flagged \\Draft \\Deleted \\*'})] Flags`,
				`* OK [UIDVALIDITY ${folder.uidValidity}] Numbering`,
				`* OK [UIDNEXT ${folder.uidNext}] Next`
			],
			ends: `OK [${readOnly ? 'READ-ONLY' : 'READ-WRITE'}] Open`
		};
	};
}

/* Which messages a search finds: the keys that a client of numbers needs. */
function searched(session: Session, words: Word[]): StoredMail[] {
	let found = session.open().folder.mails;
	const keys = [...words];
	for (let key = keys.shift(); key !== undefined; key = keys.shift()) {
		const name = text(key).toUpperCase();
		const set = () => text(keys.shift());
		if (name === 'ALL') continue;
		if (name === 'UID') {
			const wanted = set();
			found = found.filter(({ uid }) => inSet(wanted, uid, found.at(-1)?.uid ?? 0));
		} else if (name === 'DELETED') found = found.filter(({ flags }) => flags.includes('\\Deleted'));
		else if (name === 'LARGER') {
			const size = Number(set());
			found = found.filter(({ bytes }) => bytes > size);
		} else throw new Refused(`BAD ${name} is not searched for here`);
	}
	return found;
}

const FIELDS = /^BODY(?:\.PEEK)?\[HEADER\.FIELDS \((.*)\)\]$/;

/* Some fields of a header as they stand, with the empty line that ends it (RFC 3501 section 6.4.5). */
function fieldsOf(mail: Buffer, names: readonly string[]): Buffer {
	const header = (mail.toString('latin1').split(/\r?\n\r?\n/, 1)[0] ?? '').split(/\r?\n(?![ \t])/);
	const wanted = header.filter((field) => names.includes((field.split(':', 1)[0] ?? '').trim().toUpperCase()));
	return Buffer.from([...wanted, '', ''].join('\r\n'), 'latin1');
}

function fetched(session: Session, set: string, wanted: readonly string[]): (string | Buffer)[] {
	const { path, folder } = session.open();
	return session.mails(set).flatMap((mail) => {
		const parts: string[] = [];
		const literals: [name: string, bytes: Buffer][] = [];
		for (const item of new Set(['UID', ...wanted.map((one) => one.toUpperCase())])) {
			if (item === 'UID') parts.push(`UID ${mail.uid}`);
			else if (item === 'FLAGS') parts.push(`FLAGS (${mail.flags.join(' ')})`);
			else if (item === 'INTERNALDATE') parts.push(`INTERNALDATE "${showDateTime(mail.date)}"`);
			else if (item === 'RFC822.SIZE') parts.push(`RFC822.SIZE ${mail.bytes}`);
			else if (item === 'BODY.PEEK[]' || item === 'BODY[]') {
				literals.push(['BODY[]', session.store.read(mail)]);
				if (item === 'BODY[]' && session.selected?.readOnly === false && !mail.flags.includes('\\Seen')) {
					mail.flags.push('\\Seen');
					session.store.flagged(path);
				}
			} else if (FIELDS.test(item)) {
				const names = (FIELDS.exec(item)?.[1] ?? '').replaceAll('"', '').split(' ');
				literals.push([`BODY[HEADER.FIELDS (${names.join(' ')})]`, fieldsOf(session.store.read(mail), names)]);
			} else throw new Refused(`BAD ${item} is not fetched here`);
		}
		// what stands before each literal, the literals, and the end
		const answer: (string | Buffer)[] = [`* ${folder.mails.indexOf(mail) + 1} FETCH (${parts.join(' ')}`];
		for (const [name, bytes] of literals) {
			answer.push(`${String(answer.pop())} ${name} {${bytes.length}}`, bytes, '');
		}
		answer.push(`${String(answer.pop())})`);
		return answer;
	});
}

function stored(session: Session, [set, how, flags]: Word[]): Answered {
	const { path, folder } = session.open(true);
	const [, sign = '', silent = ''] = /^([+-]?)FLAGS(\.SILENT)?$/i.exec(text(how)) ?? [];
	const given = list(flags);
	const mails = session.mails(text(set));
	for (const mail of mails)
		mail.flags =
			sign === '+'
				? [...new Set([...mail.flags, ...given])]
				: sign === '-'
					? mail.flags.filter((flag) => !given.includes(flag))
					: given;
	session.store.flagged(path);
	const lines = mails.map(
		(mail) => `* ${folder.mails.indexOf(mail) + 1} FETCH (UID ${mail.uid} FLAGS (${mail.flags.join(' ')}))`
	);
	return { lines: silent ? [] : lines, ends: 'OK Marked' };
}

/* Each message that goes makes the place of those after it one less (RFC 3501 section 7.4.1). */
function expungeLines({ mails }: StoredFolder, uids: ReadonlySet<number>): string[] {
	const places = mails.flatMap(({ uid }, at) => (uids.has(uid) ? [at + 1] : []));
	return places.map((place, before) => `* ${place - before} EXPUNGE`);
}

function expunged(session: Session, among: readonly StoredMail[]): Answered {
	const { path, folder } = session.open(true);
	const uids = new Set(among.filter(({ flags }) => flags.includes('\\Deleted')).map(({ uid }) => uid));
	const lines = expungeLines(folder, uids);
	session.store.expunge(path, uids);
	return { lines, ends: 'OK Removed' };
}

function moved(session: Session, [set, name]: Word[]): Answered {
	const { path, folder } = session.open(true);
	const target = session.store.folder(text(name));
	if (!target) throw new Refused('NO [TRYCREATE] There is no such folder');
	const uids = new Set(session.mails(text(set)).map(({ uid }) => uid));
	const lines = expungeLines(folder, uids);
	const numbers = session.store.move(path, text(name), uids);
	const side = (at: 0 | 1) => numbers.map((pair) => pair[at]).join(',');
	return {
		lines: [
			...(numbers.length > 0 ? [`* OK [COPYUID ${target.uidValidity} ${side(0)} ${side(1)}] Moved`] : []),
			...lines
		],
		ends: 'OK Moved'
	};
}

function appended(session: Session, words: Word[]): Answered {
	const [name, ...rest] = words;
	const bytes = Buffer.from(text(rest.pop()), 'latin1');
	const flags = rest.find(Array.isArray)?.map(text) ?? [];
	const date = rest.find((word): word is string => typeof word === 'string');
	const { store } = session;
	if (!store.folder(text(name))) throw new Refused('NO [TRYCREATE] There is no such folder');
	if (store.usedBytes + bytes.length > store.quotaBytes) throw new Refused('NO [OVERQUOTA] The mailbox is full');
	const at = (date === undefined ? undefined : readDateTime(date)) ?? Date.now();
	const uid = store.append(text(name), bytes, flags, at);
	return { ends: `OK [APPENDUID ${session.folder(text(name)).uidValidity} ${uid}] Taken` };
}

const quotaLine = ({ usedBytes, quotaBytes }: MailStore) =>
	`* QUOTA "mail" (STORAGE ${Math.ceil(usedBytes / 1024)} ${Math.floor(quotaBytes / 1024)})`;

function listed(session: Session): Answered {
	const lines = session.store.paths.map((path) => {
		const { specialUse } = session.folder(path);
		const hasBelow = session.store.paths.some((other) => other.startsWith(`${path}/`));
		const marks = [hasBelow ? '\\HasChildren' : '\\HasNoChildren', '\\Subscribed', ...(specialUse ? [specialUse] : [])];
		return `* LIST (${marks.join(' ')}) "/" ${quoted(path)}`;
	});
	return { lines, ends: 'OK Listed' };
}

const BY_UID: Record<string, Command> = {
	SEARCH: (session, words) => ({
		lines: [
			`* SEARCH ${searched(session, words)
				.map(({ uid }) => uid)
				.join(' ')}`.trimEnd()
		],
		ends: 'OK Searched'
	}),
	FETCH: (session, [set, items]) => ({ lines: fetched(session, text(set), list(items)), ends: 'OK Fetched' }),
	STORE: stored,
	MOVE: moved,
	EXPUNGE: (session, [set]) => expunged(session, session.mails(text(set)))
};

/* Commands before and after signing in (RFC 3501 section 6). */
const FREE: Record<string, Command> = {
	CAPABILITY: () => ({ lines: [`* CAPABILITY ${CAPABILITIES}`], ends: 'OK Done' }),
	NOOP: () => ({ ends: 'OK Done' }),
	ID: () => ({ lines: ['* ID ("name" "Kovrel stand-in")'], ends: 'OK Done' }),
	LOGIN: (session, [user, password]) => session.signIn(text(user), text(password)),
	LOGOUT: () => ({ lines: ['* BYE'], ends: 'OK Done' })
};
const SIGNED_IN: Record<string, Command> = {
	NAMESPACE: () => ({ lines: ['* NAMESPACE (("" "/")) NIL NIL'], ends: 'OK Done' }),
	LIST: listed,
	LSUB: (session) => {
		const { lines = [], ends } = listed(session);
		return { lines: lines.map((line) => String(line).replace('* LIST', '* LSUB')), ...(ends ? { ends } : {}) };
	},
	STATUS: (session, [name, items]) => ({
		lines: [`* STATUS ${quoted(text(name))} (${statusOf(session.folder(text(name)), list(items))})`],
		ends: 'OK Done'
	}),
	SELECT: select(false),
	EXAMINE: select(true),
	UNSELECT: (session) => {
		session.selected = undefined;
		return { ends: 'OK Done' };
	},
	CREATE: (session, [name]) => {
		if (!session.store.create(text(name))) throw new Refused('NO [ALREADYEXISTS] It is there');
		return { ends: 'OK Made' };
	},
	RENAME: (session, [from, to]) => {
		session.folder(text(from));
		session.store.rename(text(from), text(to));
		return { ends: 'OK Renamed' };
	},
	DELETE: (session, [name]) => {
		session.folder(text(name));
		session.store.remove(text(name));
		return { ends: 'OK Removed' };
	},
	SUBSCRIBE: () => ({ ends: 'OK Done' }),
	UNSUBSCRIBE: () => ({ ends: 'OK Done' }),
	APPEND: appended,
	EXPUNGE: (session) => expunged(session, session.open(true).folder.mails),
	GETQUOTAROOT: (session, [name]) => ({
		lines: [`* QUOTAROOT ${quoted(text(name))} "mail"`, quotaLine(session.store)],
		ends: 'OK Done'
	}),
	GETQUOTA: (session) => ({ lines: [quotaLine(session.store)], ends: 'OK Done' }),
	UID: (session, [name, ...words]) => {
		const command = BY_UID[text(name).toUpperCase()];
		if (!command) throw new Refused('BAD This is not known');
		return command(session, words);
	}
};

/* A connection: lines, the literals in them, and what is said while a client listens. */
function talk(socket: Socket, store: MailStore, account: { user: string; password: string }): void {
	const session = new Session(store, account);
	let received = Buffer.alloc(0);
	let line = '';
	let literals: string[] = [];
	let wanted = 0;
	let idle: { tag: string; stop: () => void } | undefined;
	const say = (...said: (string | Buffer)[]) => {
		for (const one of said) socket.write(typeof one === 'string' ? `${one}\r\n` : one);
	};

	const listen = (tag: string) => {
		const { path, folder } = session.open();
		let known = new Map(folder.mails.map(({ uid, flags }) => [uid, flags.join(' ')]));
		const stop = store.listen((changed) => {
			if (changed !== path) return;
			const now = session.folder(path);
			const gone = [...known.keys()].map((uid) => !now.mails.some((mail) => mail.uid === uid));
			say(...gone.flatMap((isGone, at) => (isGone ? [at] : [])).map((at, before) => `* ${at + 1 - before} EXPUNGE`));
			if (now.mails.some(({ uid }) => !known.has(uid))) say(`* ${now.mails.length} EXISTS`);
			for (const [at, { uid, flags }] of now.mails.entries())
				if (known.has(uid) && known.get(uid) !== flags.join(' '))
					say(`* ${at + 1} FETCH (UID ${uid} FLAGS (${flags.join(' ')}))`);
			known = new Map(now.mails.map(({ uid, flags }) => [uid, flags.join(' ')]));
		});
		idle = { tag, stop };
		say('+ Listening');
	};

	const carryOut = (whole: string, given: readonly string[]) => {
		const [tag = '*', name = '', ...words] = (() => {
			try {
				return wordsOf(whole, given);
			} catch {
				return ['*'];
			}
		})();
		const called = String(name).toUpperCase();
		try {
			if (called === 'IDLE' && session.isSignedIn) return listen(String(tag));
			const command = FREE[called] ?? (session.isSignedIn ? SIGNED_IN[called] : undefined);
			if (!command) throw new Refused('BAD This is not known');
			const { lines = [], ends = 'OK Done' } = command(session, words);
			say(...lines, `${String(tag)} ${ends}`);
			if (called === 'LOGOUT') socket.end();
		} catch (error) {
			if (!(error instanceof Refused)) throw error;
			say(`${String(tag)} ${error.message}`);
		}
	};

	const takeLine = (said: string) => {
		if (idle) {
			const { tag, stop } = idle;
			idle = undefined;
			stop();
			return say(said.toUpperCase() === 'DONE' ? `${tag} OK Listened` : `${tag} BAD Say DONE`);
		}
		line += said;
		const literal = literalOf(said);
		if (literal) {
			if (literal.bytes > LARGEST_MESSAGE) {
				say('* BYE This is too large');
				return socket.end();
			}
			wanted = literal.bytes;
			if (wanted === 0) literals.push('');
			if (literal.waits) say('+ Go on');
			return;
		}
		const [whole, given] = [line, literals];
		line = '';
		literals = [];
		if (whole !== '') carryOut(whole, given);
	};

	socket.on('data', (bytes: Buffer) => {
		received = Buffer.concat([received, bytes]);
		for (;;) {
			if (wanted > 0) {
				if (received.length < wanted) return;
				literals.push(received.toString('latin1', 0, wanted));
				received = received.subarray(wanted);
				wanted = 0;
			}
			const end = received.indexOf('\r\n');
			if (end < 0) {
				if (received.length > LONGEST_LINE) socket.destroy();
				return;
			}
			const said = received.toString('latin1', 0, end);
			received = received.subarray(end + 2);
			takeLine(said);
		}
	});
	socket.on('error', () => socket.destroy());
	socket.on('close', () => idle?.stop());
	say(`* OK [CAPABILITY ${CAPABILITIES}] Stand-in for a mail server`);
}

/** The mail server of one account. */
export function imapServer(store: MailStore, account: { user: string; password: string }): Server {
	return createServer((socket) => talk(socket, store, account));
}
