import type { Instant } from '../message/date.ts';

/** A branch of messages that refer to each other, which is never divided. */
export interface Branch {
	/** The items in it, parents before their children. */
	ids: readonly number[];
	/** Base subject of its root; empty if there is none. */
	subject: string;
	/** The subject of its root as it is shown. */
	title: string;
	/** Its root is an answer that refers to no message: it may belong to another branch. */
	isLoose: boolean;
	/** When its root was sent; undefined: not known. */
	firstAt: Instant | undefined;
	/** When its newest message was sent; undefined: not known. */
	newestAt: Instant | undefined;
	/** Addresses of its senders and recipients, without the mailbox's own. */
	people: readonly string[];
}

/** An answer without references joins a thread whose newest message is at most this much older. */
const JOINS_WITHIN_SECONDS = 90 * 86_400;

interface Growing {
	branches: Branch[];
	newestAt: Instant;
}

const byFirst = (a: Branch, b: Branch) =>
	(a.firstAt ?? 0) - (b.firstAt ?? 0) || Number(a.isLoose) - Number(b.isLoose) || (a.ids[0] ?? 0) - (b.ids[0] ?? 0);

/* How long the newest message of a thread was past when a loose answer came. */
const gap = ({ newestAt }: Growing, at: Instant) => Math.max(0, at - newestAt);

/* The threads that somebody has part in: a subject of a hundred thousand letters is not compared letter by letter. */
class Correspondence {
	#of = new Map<string, Set<Growing>>();

	add(thread: Growing, people: readonly string[]): void {
		for (const address of people) this.#of.set(address, (this.#of.get(address) ?? new Set()).add(thread));
	}

	/* Branches come in the order of their roots: a thread that is too old for one is too old for all that follow. */
	nearest(people: readonly string[], at: Instant): Growing | undefined {
		let found: Growing | undefined;
		for (const address of people)
			for (const thread of this.#of.get(address) ?? [])
				if (gap(thread, at) > JOINS_WITHIN_SECONDS) this.#of.get(address)?.delete(thread);
				else if (
					!found ||
					gap(thread, at) < gap(found, at) ||
					(gap(thread, at) === gap(found, at) && isLater(thread, found))
				)
					found = thread;
		return found;
	}
}

const isLater = (a: Growing, b: Growing) => byFirst(a.branches[0] as Branch, b.branches[0] as Branch) > 0;

/**
 * The conversations among branches of one base subject. A branch whose root refers to no message joins another one only
 * if it is an answer, shares a correspondent with it, and came within 90 days of its newest message; of several, the
 * nearest wins. So a conversation lies within one thread of RFC 5256 REFERENCES, and holds whole branches.
 *
 * @param branches in any order; the answer does not depend on it
 * @returns the branches of each conversation, by the time of their roots
 */
export function conversationsOf(branches: readonly Branch[]): Branch[][] {
	const threads: Growing[] = [];
	const correspondence = new Correspondence();
	const alone: Branch[][] = [];
	for (const branch of [...branches].sort(byFirst)) {
		const { firstAt, newestAt = firstAt, people, subject } = branch;
		if (firstAt === undefined || newestAt === undefined || subject === '') {
			alone.push([branch]);
			continue;
		}
		let thread = branch.isLoose ? correspondence.nearest(people, firstAt) : undefined;
		if (!thread) threads.push((thread = { branches: [], newestAt }));
		thread.branches.push(branch);
		thread.newestAt = Math.max(thread.newestAt, newestAt);
		correspondence.add(thread, people);
	}
	return [...threads.map((thread) => thread.branches), ...alone];
}
