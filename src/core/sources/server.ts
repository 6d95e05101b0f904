import type { Flags } from '../message/summary.ts';
import type { FolderRole } from '../weigh/roles.ts';
import { showBytes, showMessages, showShare } from '../weigh/units.ts';

/** How a connection is encrypted: from its first byte, after a command (RFC 3501 section 6.2.1), or not at all. */
export const TLS_MODES = ['implicit', 'starttls', 'none'] as const;
export type TlsMode = (typeof TLS_MODES)[number];

/** The port where an IMAP server usually listens (RFC 8314 section 3.2, RFC 3501 section 2.1). */
export const usualPort = (tls: TlsMode): number => (tls === 'implicit' ? 993 : 143);

const LOOPBACK = /^(localhost|127(\.\d{1,3}){3}|::1|\[::1\])$/i;

/** Whether a name or address is this machine. */
export const isLoopback = (host: string): boolean => LOOPBACK.test(host.trim());

/** What is wrong with the place of a server, as a sentence without its full stop; undefined: nothing. */
export function wrongServer({ host, port, tls }: { host: string; port: number; tls: TlsMode }): string | undefined {
	if (host.trim() === '' || /[\s/@]/.test(host.trim())) return 'Name the server, as in mail.skerryline.example';
	if (!Number.isInteger(port) || port < 1 || port > 65_535) return 'A port is a number from 1 to 65535';
	if (tls === 'none' && !isLoopback(host))
		return 'Without encryption the password could be read on the way: that is possible on this machine alone';
	return undefined;
}

/** An extension of IMAP, with what Kovrel does where a server has it, and where it has not. */
interface Extension {
	name: string;
	/** The document that defines it. */
	source: string;
	with: string;
	without: string;
}

/** The extensions that make a difference here. */
export const EXTENSIONS: readonly Extension[] = [
	{
		name: 'CONDSTORE',
		source: 'RFC 7162',
		with: 'Kovrel asks only for marks that changed',
		without: 'Kovrel compares the marks of all messages at each pass'
	},
	{
		name: 'QRESYNC',
		source: 'RFC 7162',
		with: 'Kovrel compares the numbers of a folder that changed all the same',
		without: 'Kovrel compares the numbers of a folder that changed'
	},
	{
		name: 'SPECIAL-USE',
		source: 'RFC 6154',
		with: 'Kovrel takes the folders of sent mail, drafts, junk and the bin from the server',
		without: 'Kovrel recognises the folders of sent mail, drafts, junk and the bin by their names'
	},
	{
		name: 'QUOTA',
		source: 'RFC 9208',
		with: 'Kovrel shows the quota of the server beside its own sum',
		without: 'Kovrel shows its own sum alone'
	},
	{
		name: 'MOVE',
		source: 'RFC 6851',
		with: 'where it may write, Kovrel moves messages in one step',
		without: 'where it may write, Kovrel copies messages and removes them from where they were'
	},
	{
		name: 'UIDPLUS',
		source: 'RFC 4315',
		with: 'where it may write, Kovrel removes single messages, and learns the numbers of moved ones',
		without:
			'where it may write, Kovrel looks for what it moved, and removes nothing from a folder in which others have marked messages as deleted'
	}
];

/** The folder roles of special uses (RFC 6154 section 2); the inbox by its name. */
const ROLES: Record<string, FolderRole> = {
	'\\Sent': 'sent',
	'\\Drafts': 'drafts',
	'\\Junk': 'junk',
	'\\Trash': 'trash',
	'\\Archive': 'archive'
};

/** The role of a server's folder; undefined: by its name alone. */
export function roleOfUse(specialUse: string | undefined): FolderRole | undefined {
	return specialUse === undefined ? undefined : ROLES[specialUse];
}

/* Of all mail, of flagged and of important mail (RFC 6154 section 2, RFC 8457). */
const VIEWS: readonly string[] = ['\\all', '\\flagged', '\\important'];

/** Whether a folder is a view: it shows messages of other folders once more, by the attributes with which it is listed. */
export const isView = (attributes: Iterable<string>): boolean =>
	[...attributes].some((attribute) => VIEWS.includes(attribute.toLowerCase()));

/**
 * The path of a server's folder here: levels joined by `/`, INBOX as the inbox (RFC 3501 section 5.1). A slash within a
 * name becomes U+2215, so that it makes no level.
 */
export function pathHere(path: string, delimiter: string): string {
	const names = delimiter === '' ? [path] : path.split(delimiter);
	return names
		.map((name, at) => (at === 0 && name.toUpperCase() === 'INBOX' ? 'Inbox' : name.trim().replaceAll('/', '∕')))
		.filter((name) => name !== '')
		.join('/');
}

/** The marks of a message on a server, as one number for comparing: bits of {@link flagsOf}. */
const BITS = [
	['\\seen', 1],
	['\\answered', 2],
	['\\flagged', 4],
	['\\draft', 8],
	['\\deleted', 16]
] as const;

/** System flags (RFC 3501 section 2.3.2) as bits. */
export function flagBits(flags: Iterable<string>): number {
	const said = new Set([...flags].map((flag) => flag.toLowerCase()));
	return BITS.reduce((bits, [flag, bit]) => (said.has(flag) ? bits | bit : bits), 0);
}

/** Bits as the flags of an item. */
export function flagsOf(bits: number): Flags {
	return { seen: (bits & 1) !== 0, answered: (bits & 2) !== 0, flagged: (bits & 4) !== 0, draft: (bits & 8) !== 0 };
}

/** The bit of a message that is marked as deleted. */
export const MARKED_DELETED = 16;

/** Whether a server's message is marked as deleted, and only waits to be expunged. */
export const isMarkedDeleted = (bits: number): boolean => (bits & MARKED_DELETED) !== 0;

const MOST_KEYWORDS = 50;

/** The keywords of a message, which are tags here, sorted; marks for programs (`$MDNSent` and the like) are none. */
export function keywordsOf(flags: Iterable<string>): string[] {
	const words = [...flags].filter((flag) => !flag.startsWith('\\') && (!flag.startsWith('$') || isJunkMark(flag)));
	return [...new Set(words)].sort().slice(0, MOST_KEYWORDS);
}

/** Those of some keywords that others do not hold; case makes no difference (RFC 3501 section 2.3.2). */
export const keywordsNotIn = (words: readonly string[], others: readonly string[]): string[] =>
	words.filter((word) => !others.some((other) => other.toLowerCase() === word.toLowerCase()));

/** Whether a keyword says that mail is junk or fraud (IANA's registry of IMAP keywords). */
export const isJunkMark = (flag: string): boolean => ['$junk', '$phishing'].includes(flag.toLowerCase());

/** What a server counts against its quota, and what Kovrel counts of the same mail. */
interface Quotas {
	/** Bytes; null: the server does not say. */
	quotaUsed: number | null;
	quotaLimit: number | null;
	/** Of what is followed, and of that what is archived here and still lies there. */
	bytes: number;
	archived: number;
}

/** The quota of a server beside Kovrel's own sum, with why they differ; undefined: the server does not say. */
export function quotaSentence({ quotaUsed, quotaLimit, bytes, archived }: Quotas): string | undefined {
	if (quotaUsed === null || quotaLimit === null) return undefined;
	const said = `The server counts ${showBytes(quotaUsed)} of ${showBytes(quotaLimit)} (${showShare(quotaUsed, quotaLimit)}).`;
	const rest = quotaUsed - bytes;
	const own = `Kovrel counts ${showBytes(bytes)} of it`;
	const why =
		Math.abs(rest) < Math.max(1_000, quotaUsed / 1_000)
			? `${own}.`
			: rest > 0
				? `${own}; the other ${showBytes(rest)} lie in folders that are left out, arrived after the last pass, or are counted differently there.`
				: `${own}: messages of which the server keeps one copy for several folders count here in each.`;
	const kept = archived > 0 ? ` ${showBytes(archived)} are archived here and still weigh there.` : '';
	return `${said} ${why}${kept}`;
}

const MANY = 50;
const MANY_OF = 10;

/**
 * Whether so many messages are gone from a server at once that a person should look first: a lost permission or a server
 * restored from nothing looks like everybody's mail being removed.
 */
export const isManyGone = ({ gone, followed }: { gone: number; followed: number }): boolean =>
	gone > MANY && gone * MANY_OF > followed;

/**
 * What a live mailbox that is disconnected now leaves on its server, as sentences; none: all is here and there alike.
 *
 * @param source.ahead mail whose headers alone are here
 * @param source.waiting messages that the server has still to show as they are here
 * @param source.passedAt the end of the last whole pass; null: there was none
 */
export function leftOnServer({
	host,
	ahead,
	waiting,
	passedAt
}: {
	host: string;
	ahead: { messages: number; bytes: number };
	waiting: number;
	passedAt: string | null;
}): string[] {
	const are = (count: number, one: string, many: string) => (count === 1 ? one : many);
	return [
		...(ahead.messages > 0
			? [
					`${showMessages(ahead.messages)} (${showBytes(ahead.bytes)}) ${are(ahead.messages, 'is', 'are')} on ${host} alone: Kovrel has not fetched ${are(ahead.messages, 'it', 'them')} yet.`
				]
			: []),
		...(passedAt === null ? [`Kovrel has not been through this mailbox yet: ${host} may have more mail.`] : []),
		...(waiting > 0
			? [`${showMessages(waiting)} ${are(waiting, 'waits', 'wait')} for ${host}, and will not be changed there.`]
			: [])
	];
}
