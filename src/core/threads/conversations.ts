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
	firstAt: Instant;
	newestAt: Instant;
	people: Set<string>;
}

const byFirst = (a: Branch, b: Branch) =>
	(a.firstAt ?? 0) - (b.firstAt ?? 0) || Number(a.isLoose) - Number(b.isLoose) || (a.ids[0] ?? 0) - (b.ids[0] ?? 0);

/* How long the newest message of a thread was past when a loose answer came. */
const gap = ({ newestAt }: Growing, at: Instant) => Math.max(0, at - newestAt);

function joins(thread: Growing, { firstAt, people }: Branch): boolean {
	return (
		firstAt !== undefined &&
		thread.firstAt <= firstAt &&
		gap(thread, firstAt) <= JOINS_WITHIN_SECONDS &&
		people.some((address) => thread.people.has(address))
	);
}

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
	const alone: Branch[][] = [];
	for (const branch of [...branches].sort(byFirst)) {
		const { firstAt, newestAt = firstAt, people, subject } = branch;
		if (firstAt === undefined || newestAt === undefined || subject === '') {
			alone.push([branch]);
			continue;
		}
		let nearest: Growing | undefined;
		if (branch.isLoose)
			for (const thread of threads)
				if (joins(thread, branch) && (!nearest || gap(thread, firstAt) <= gap(nearest, firstAt))) nearest = thread;
		if (nearest) {
			nearest.branches.push(branch);
			nearest.newestAt = Math.max(nearest.newestAt, newestAt);
			for (const address of people) nearest.people.add(address);
		} else threads.push({ branches: [branch], firstAt, newestAt, people: new Set(people) });
	}
	return [...threads.map((thread) => thread.branches), ...alone];
}
