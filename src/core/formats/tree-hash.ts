/**
 * The hash of a file too large to be hashed at once in a browser: the SHA-256 of the concatenated SHA-256 hashes of
 * its blocks. Two files share it only if all their blocks are equal.
 */

/** Bytes of a block; the last one is shorter. */
export const BLOCK_BYTES = 4 * 1024 * 1024;

/** The concatenated hashes of the blocks, from which the whole is hashed. An empty file has none. */
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
