/** Which mail of a server is fetched first. */
export const FETCH_ORDERS = ['newest', 'heaviest'] as const;
export type FetchOrder = (typeof FETCH_ORDERS)[number];

/** How a live mailbox's mail is fetched. */
export interface Fetching {
	fetchFirst: FetchOrder;
	/** Bytes a second, on average; null: as fast as the server gives them. */
	bytesASecond: number | null;
	/** Connections to the server at a time; with one, Kovrel does not listen for new mail beside a pass. */
	connections: number;
}

export const USUAL_FETCHING: Fetching = { fetchFirst: 'newest', bytesASecond: null, connections: 2 };

/** A limit below this would not keep up with anybody's mail. */
const LEAST_BYTES_A_SECOND = 10_000;
const MOST_CONNECTIONS = 2;

/** What is wrong with how mail is to be fetched, as a sentence without its full stop; undefined: nothing. */
export function wrongFetching({ bytesASecond, connections }: Fetching): string | undefined {
	if (bytesASecond !== null && !(bytesASecond >= LEAST_BYTES_A_SECOND))
		return 'A limit is 10 kB a second or more; without one, leave it empty';
	if (!Number.isInteger(connections) || connections < 1 || connections > MOST_CONNECTIONS)
		return 'Kovrel uses one or two connections';
	return undefined;
}

/** A message on a server whose bytes are still to come. */
export interface ToFetch {
	/** Its folder, by a number of the caller's. */
	folder: number;
	uid: number;
	/** When it was received, in seconds since 1970; undefined: the server does not say. */
	receivedAt: number | undefined;
	/** Undefined: not known. */
	bytes: number | undefined;
}

const HIGHER: Record<FetchOrder, (message: ToFetch) => number> = {
	// within a folder the highest number came last (RFC 3501 section 2.3.1.1)
	newest: ({ receivedAt }) => receivedAt ?? 0,
	heaviest: ({ bytes }) => bytes ?? 0
};

/** One FETCH: messages of one folder. */
export interface Portion {
	folder: number;
	uids: number[];
}

/**
 * Divides mail into portions in the order in which it is fetched. What follows each other closely in that order is taken
 * folder by folder, so that folders are not opened for single messages.
 *
 * @param most messages and bytes that may be taken together, and how many of one folder with one command
 */
export function* portions(
	messages: readonly ToFetch[],
	first: FetchOrder,
	most: { messages: number; bytes: number; ofFolder: number }
): Generator<Portion> {
	const higher = HIGHER[first];
	const sorted = [...messages].sort((a, b) => higher(b) - higher(a) || b.uid - a.uid);
	for (let at = 0; at < sorted.length;) {
		const together = new Map<number, number[]>();
		let bytes = 0;
		const from = at;
		while (at < sorted.length && at - from < most.messages && (at === from || bytes < most.bytes)) {
			const message = sorted[at++] as ToFetch;
			bytes += message.bytes ?? 0;
			const uids = together.get(message.folder);
			if (uids) uids.push(message.uid);
			else together.set(message.folder, [message.uid]);
		}
		for (const [folder, uids] of together)
			for (let n = 0; n < uids.length; n += most.ofFolder) yield { folder, uids: uids.slice(n, n + most.ofFolder) };
	}
}

/** Numbers of messages as a sequence set (RFC 3501 section 9), those that follow each other as a range. */
export function sequenceSet(uids: readonly number[]): string {
	const ranges: [number, number][] = [];
	for (const uid of [...uids].sort((a, b) => a - b)) {
		const last = ranges.at(-1);
		if (last && uid <= last[1] + 1) last[1] = uid;
		else ranges.push([uid, uid]);
	}
	return ranges.map(([from, to]) => (from === to ? String(from) : `${from}:${to}`)).join(',');
}

/* So much of a pause may be made up for. */
const CREDIT_MS = 1_000;

/** Keeps to a number of bytes a second on average. */
export class Pace {
	readonly #bytesASecond: number | null;
	/* When all bytes so far would have come at that pace. */
	#due = -Infinity;

	constructor(bytesASecond: number | null) {
		this.#bytesASecond = bytesASecond;
	}

	/**
	 * Counts bytes that came.
	 *
	 * @param now milliseconds of any clock that only goes forward
	 * @returns how long to wait before the next ones, in milliseconds
	 */
	took(bytes: number, now: number): number {
		if (this.#bytesASecond === null) return 0;
		this.#due = Math.max(this.#due, now - CREDIT_MS) + (bytes / this.#bytesASecond) * 1_000;
		return Math.max(0, this.#due - now);
	}
}
