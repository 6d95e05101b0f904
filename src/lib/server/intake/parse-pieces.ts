import { type ParsedMessage, parseInThread } from '../mail/index.ts';
import type { Piece } from './mail-files.ts';

/* The third stage of the way in: pieces of the source are parsed in threads. The order is kept. */

const BUNDLE_MESSAGES = 32;
const BUNDLE_BYTES = 1_000_000;
/* Pieces read and not stored yet: limited, so that memory stays flat for any file size. */
const AHEAD_BUNDLES = 80;
const AHEAD_BYTES = 4_000_000;

/** The place of a piece and the facts its source gives; the threads have its bytes. */
export type PieceOrigin = Omit<Piece, 'bytes'>;

/** A parsed piece. */
export interface ParsedPiece {
	piece: PieceOrigin;
	parsed: ParsedMessage;
}

interface Bundle {
	pieces: PieceOrigin[];
	messages: Uint8Array[];
	bytes: number;
}

/* Several small messages, or a large one, for one thread. */
async function* bundled(source: AsyncIterable<Piece[]>, signal: AbortSignal): AsyncGenerator<Bundle> {
	let bundle: Bundle = { pieces: [], messages: [], bytes: 0 };
	for await (const pieces of source) {
		if (signal.aborted) break;
		for (const piece of pieces) {
			const { bytes, ...origin } = piece;
			bundle.pieces.push(origin);
			bundle.messages.push(bytes);
			bundle.bytes += bytes.length;
			if (bundle.messages.length < BUNDLE_MESSAGES && bundle.bytes < BUNDLE_BYTES) continue;
			yield bundle;
			bundle = { pieces: [], messages: [], bytes: 0 };
		}
	}
	if (bundle.messages.length > 0) yield bundle;
}

/** Parses pieces in threads: reading runs ahead of parsing, and parsing ahead of storing, both within the limit. */
export async function* parsePieces(pieces: AsyncIterable<Piece[]>, signal: AbortSignal): AsyncGenerator<ParsedPiece> {
	const ahead: { bundle: Bundle; parsing: Promise<ParsedMessage[]> }[] = [];
	let bytesAhead = 0;
	const next = async (): Promise<ParsedPiece[]> => {
		const { bundle, parsing } = ahead.shift() as (typeof ahead)[number];
		bytesAhead -= bundle.bytes;
		const done = await parsing;
		return bundle.pieces.map((piece, at) => ({ piece, parsed: done[at] as ParsedMessage }));
	};
	for await (const bundle of bundled(pieces, signal)) {
		const parsing = parseInThread(bundle.messages);
		parsing.catch(() => {}); // looked at in order, by next()
		bundle.messages = [];
		ahead.push({ bundle, parsing });
		bytesAhead += bundle.bytes;
		while (ahead.length > AHEAD_BUNDLES || (bytesAhead > AHEAD_BYTES && ahead.length > 1)) yield* await next();
	}
	// after a stop, pieces read and not stored are read again when the import continues
	while (ahead.length > 0 && !signal.aborted) yield* await next();
}
