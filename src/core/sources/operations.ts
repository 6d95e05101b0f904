import type { DecisionOptions, DecisionRule } from '../docket/decision.ts';
import { isJunkMark, isMarkedDeleted, keywordsNotIn } from './server.ts';
import { isKeyword } from '../tags/names.ts';

/* What has to be done on a server so that it shows an item as it is here: the difference between the two. */

/** Where an item belongs on its server. */
export type Place =
	/** In this folder, by its path there. */
	| { at: string }
	/** In no folder. */
	| 'nowhere'
	/** Where it lies: only its marks are meant. */
	| 'as it is';

/** An item as it is here. */
export interface WantedItem {
	itemId: number;
	place: Place;
	/** Whether it may be put there anew, where the server has it in no folder. */
	mayAppend: boolean;
	/** System flags as bits (core/sources/server); undefined: destroyed, there are none. */
	flags: number | undefined;
	/** The bits that are known here. */
	knownFlags: number;
	keywords: readonly string[];
}

/** The marks of a message on a server. */
export interface Marks {
	flags: number;
	keywords: readonly string[];
}

/** A message of a server that is an item here. */
export interface ServerMessage extends Marks {
	itemId: number;
	folder: string;
	uid: number;
}

/** One thing to do on the server; each can be repeated. */
export type Operation =
	| { kind: 'marks'; itemId: number; folder: string; uid: number; add: string[]; remove: string[]; after: Marks }
	| { kind: 'move'; itemId: number; folder: string; uid: number; to: string }
	| { kind: 'append'; itemId: number; to: string }
	| { kind: 'remove'; itemId: number; folder: string; uid: number };

/* The flags that a decision changes; the others are the server's own. */
const SENT_BITS = [
	[1, '\\Seen'],
	[2, '\\Answered'],
	[4, '\\Flagged']
] as const;

/** The system flags of bits, as a server names them. */
export const flagNames = (bits: number): string[] =>
	SENT_BITS.flatMap(([bit, name]) => ((bits & bit) === 0 ? [] : [name]));

function marksOf(wanted: WantedItem, there: ServerMessage): Operation[] {
	if (wanted.flags === undefined) return [];
	const differing = (wanted.flags ^ there.flags) & wanted.knownFlags;
	const add = [...flagNames(differing & wanted.flags), ...keywordsNotIn(wanted.keywords, there.keywords)];
	const remove = [...flagNames(differing & there.flags), ...keywordsNotIn(there.keywords, wanted.keywords)];
	if (add.length + remove.length === 0) return [];
	const { itemId, folder, uid } = there;
	const after = { flags: there.flags ^ differing, keywords: wanted.keywords };
	return [{ kind: 'marks', itemId, folder, uid, add, remove, after }];
}

/**
 * What has to be done on the server for one item, in this order; nothing: it is there as it is here.
 *
 * @param there the messages that are this item, in whatever folders
 */
export function operationsFor(wanted: WantedItem, there: readonly ServerMessage[]): Operation[] {
	const { itemId, place } = wanted;
	if (place === 'nowhere') return there.map(({ folder, uid }) => ({ kind: 'remove', itemId, folder, uid }));
	const marks = there.flatMap((message) => marksOf(wanted, message));
	if (place === 'as it is') return marks;
	const to = place.at;
	if (there.length === 0) return wanted.mayAppend ? [{ kind: 'append', itemId, to }] : [];
	// others have copied it, and marked the former one as deleted: that one is only to be expunged
	const copies = there.filter(({ flags }) => !isMarkedDeleted(flags));
	const meant = copies.length > 0 ? copies : there;
	// a move that broke off after its copy: what is in its place already is not moved again
	const isThere = meant.some(({ folder }) => folder === to);
	return [
		...marks,
		...there.flatMap((message): Operation[] => {
			const { folder, uid } = message;
			if (meant.includes(message) && folder === to) return [];
			return isThere || !meant.includes(message)
				? [{ kind: 'remove', itemId, folder, uid }]
				: [{ kind: 'move', itemId, folder, uid, to }];
		})
	];
}

/** What a decision changes of an item that a mail server can show; undefined: nothing. */
export function changesOnServer(rule: DecisionRule, options: DecisionOptions): 'place' | 'marks' | undefined {
	if (rule.about === 'lists') return undefined;
	if (rule.to !== undefined) return 'place';
	const aspect = rule.aspect(options);
	if (aspect === 'place') return 'place';
	return aspect === 'flag' || aspect === 'read' || aspect.startsWith('tag ') ? 'marks' : undefined;
}

/** The keyword of a tag on a server, a low line for a blank; undefined: it can be none, and the tag stays here. */
export function keywordOfTag(name: string): string | undefined {
	const word = name.replaceAll(' ', '_');
	return isKeyword(word) && (!word.startsWith('$') || isJunkMark(word)) ? word : undefined;
}

/** The name of the tag that a keyword is: of those there are, the one with its name, else the one that it stands for. */
export const tagOfKeyword = (keyword: string, names: readonly string[]): string =>
	names.find((name) => name.toLowerCase() === keyword.toLowerCase()) ??
	names.find((name) => keywordOfTag(name)?.toLowerCase() === keyword.toLowerCase()) ??
	keyword;

/** The path on a server of a folder here: the other way of {@link pathHere}. */
export function pathOnServer(path: string, delimiter: string): string {
	return path
		.split('/')
		.map((name, at) => {
			if (at === 0 && name === 'Inbox') return 'INBOX';
			const own = delimiter === '/' ? name : name.replaceAll('∕', '/');
			return delimiter === '' ? own : own.replaceAll(delimiter, '_');
		})
		.join(delimiter);
}
