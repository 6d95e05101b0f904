import type { Decision } from '../docket/decisions.ts';

/**
 * All kinds of proposals, each with its meaning and its decision. Those that are safe to clear lose nothing: another
 * message has all of it, or its sender says that it is over. The others are worth a look, and their decision keeps them.
 */
export const PROPOSALS = {
	'same-bytes': {
		name: 'Exact duplicates',
		what: 'the same bytes lie in a better place of the same mailbox',
		decision: 'delete',
		standing: 'safe'
	},
	'same-content': {
		name: 'Duplicates that took another way',
		what: 'the same message is there with other transport headers',
		decision: 'delete',
		standing: 'safe'
	},
	'quoted-in-full': {
		name: 'Quoted in full',
		what: 'a later message in the thread carries all of its text and files',
		decision: 'delete',
		standing: 'safe'
	},
	'newsletter-unread': {
		name: 'Newsletters nobody has read',
		what: 'newsletters and advertisements, unread for 10 days and more',
		decision: 'archive',
		standing: 'look'
	},
	expired: {
		name: 'Expired',
		what: 'the sender says that it is of no more use since a day that is past',
		decision: 'delete',
		standing: 'safe'
	},
	automatic: {
		name: 'Automatic notices',
		what: 'automatic answers, delivery reports and read reports',
		decision: 'delete',
		standing: 'safe'
	},
	'calendar-past': {
		name: 'Answers to past events',
		what: 'who comes to an event that is over',
		decision: 'delete',
		standing: 'safe'
	},
	thanks: {
		name: 'One line of thanks',
		what: 'thanks or an acknowledgement in one line, and no file',
		decision: 'archive',
		standing: 'look'
	},
	leftover: {
		name: 'Empty messages and old drafts',
		what: 'nothing in them, or a draft untouched for three months',
		decision: 'archive',
		standing: 'look'
	},
	'never-opened': {
		name: 'Never opened',
		what: 'only the sender ever wrote, and nobody has opened it in three months',
		decision: 'archive',
		standing: 'look'
	},
	largest: {
		name: 'Largest messages',
		what: 'messages of 5 MB and more, the largest first',
		decision: 'archive',
		standing: 'look'
	}
} as const satisfies Record<string, { name: string; what: string; decision: Decision; standing: 'safe' | 'look' }>;
export type ProposalKind = keyof typeof PROPOSALS;

/** A kind in words that follow "messages". */
export function proposalLabel(kind: ProposalKind): string {
	return `proposed as “${PROPOSALS[kind].name.toLowerCase()}”`;
}

export const PROPOSAL_KINDS = Object.keys(PROPOSALS) as ProposalKind[];

/** Proposals that rest on another message: they lapse if that one is gone. */
export const RESTS_ON_ANOTHER: readonly string[] = [
	'same-bytes',
	'same-content',
	'quoted-in-full',
	'thanks'
] satisfies ProposalKind[];

/** Days after which an unread advertisement is stale (common practice). */
export const DEAD_AFTER_DAYS = 10;
/** Months after which unopened mail counts as not needed. */
export const UNTOUCHED_MONTHS = 3;

/** A place that a message lies in. */
export interface MessagePlace {
	itemId: number;
	folder: string;
	role: string | null;
	/** Kept, flagged, tagged or paused: somebody marked this one on purpose. */
	marked: boolean;
}

/* How well a folder's role speaks for its mail. A folder without a role was made for its mail. */
const ROLE_RANK: Record<string, number> = { inbox: 2, sent: 3, archive: 3, drafts: 5, junk: 6, trash: 7 };

/** The better of several places, and the reason. */
export function betterPlace(places: readonly MessagePlace[]): { best: MessagePlace; why: string } {
	const rank = ({ role, marked }: MessagePlace) => (marked ? 0 : role === null ? 1 : (ROLE_RANK[role] ?? 4));
	const depth = ({ folder }: MessagePlace) => folder.split('/').length;
	const [best] = [...places].sort((a, b) => rank(a) - rank(b) || depth(b) - depth(a) || a.itemId - b.itemId) as [
		MessagePlace
	];
	const why = best.marked
		? 'where it is marked'
		: best.role === null
			? 'a folder made for it'
			: 'where it came in first';
	return { best, why };
}
