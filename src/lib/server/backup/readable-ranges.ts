import { isBrokenPage, type Range } from '../database/index.ts';

/** A result; `otherwise` if it met a page that cannot be read. */
export async function unlessBroken<T>(work: Promise<T>, otherwise: T): Promise<T> {
	return work.catch((error: unknown) => {
		if (isBrokenPage(error)) return otherwise;
		throw error;
	});
}

/**
 * Reads rows by ranges of their numbers. A range that cannot be read is halved until single rows are left, so that a
 * broken page hides only its own rows.
 *
 * @param atOnce rows in a range
 * @param read reads a range
 * @param onBroken takes a row that cannot be read
 * @returns the results of what could be read, in order
 */
export async function* readableRanges<T>(
	{ from, to }: Range,
	atOnce: number,
	read: (range: Range) => Promise<T>,
	onBroken: (id: number) => void
): AsyncGenerator<T> {
	for (let start = from; start <= to; start += atOnce)
		yield* readableHalves({ from: start, to: Math.min(to, start + atOnce - 1) }, read, onBroken);
}

async function* readableHalves<T>(
	range: Range,
	read: (range: Range) => Promise<T>,
	onBroken: (id: number) => void
): AsyncGenerator<T> {
	let result: T;
	try {
		result = await read(range);
	} catch (error) {
		if (!isBrokenPage(error)) throw error;
		if (range.from === range.to) return onBroken(range.from);
		const middle = Math.floor((range.from + range.to) / 2);
		yield* readableHalves({ from: range.from, to: middle }, read, onBroken);
		yield* readableHalves({ from: middle + 1, to: range.to }, read, onBroken);
		return;
	}
	yield result;
}
