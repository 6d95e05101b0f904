import type { ParsedPiece } from './parse-pieces.ts';

/** Pieces that are stored in one transaction. */
export interface Batch {
	pieces: ParsedPiece[];
	/** Whether it is the last one. */
	last: boolean;
}

/** Groups pieces into batches, one transaction each; the first is small, so that storing begins soon. */
export async function* inBatches(
	parsedPieces: AsyncIterable<ParsedPiece>,
	largest: { messages: number; bytes: number }
): AsyncGenerator<Batch> {
	let pieces: ParsedPiece[] = [];
	let bytes = 0;
	let enough = largest.bytes / 5;
	for await (const piece of parsedPieces) {
		if (pieces.length >= largest.messages || bytes >= enough) {
			yield { pieces, last: false };
			enough = largest.bytes;
			pieces = [];
			bytes = 0;
		}
		pieces.push(piece);
		bytes += piece.parsed.packed.rawBytes;
	}
	if (pieces.length > 0) yield { pieces, last: true };
}

/** Ends a source at its first failure, after everything before that has been stored. */
export async function* asFarAsItGoes<T>(
	values: AsyncIterable<T>,
	breaksOff: (error: unknown) => void
): AsyncGenerator<T> {
	try {
		yield* values;
	} catch (error) {
		breaksOff(error);
	}
}

/** Prepares each value while the one before is used. */
export async function* oneAhead<T>(values: AsyncGenerator<T>): AsyncGenerator<T> {
	const begin = () => {
		const next = values.next();
		next.catch(() => {}); // thrown when its turn comes
		return next;
	};
	try {
		for (let next = begin(); ;) {
			const { done, value } = await next;
			if (done) return;
			next = begin();
			yield value;
		}
	} finally {
		void values.return(undefined);
	}
}
