/**
 * The hash of a whole file that is too large to be hashed at once in a browser: the SHA-256 of the SHA-256 of its blocks, one
 * behind the other. Two files have the same only where they are alike in every block.
 */

/** Bytes of a block; the last one is shorter. */
export const BLOCK_BYTES = 4 * 1024 * 1024;

/** The hashes of the blocks one behind the other: what the whole is hashed from. An empty file has none. */
export function joinedHashes(hashes: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
	const joined = new Uint8Array(hashes.reduce((sum, { length }) => sum + length, 0));
	let at = 0;
	for (const hash of hashes) {
		joined.set(hash, at);
		at += hash.length;
	}
	return joined;
}

/** A hash in hexadecimal digits. */
export function hexOf(hash: Uint8Array): string {
	return [...hash].map((byte) => byte.toString(16).padStart(2, '0')).join('');
}
