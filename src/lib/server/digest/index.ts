/* Digests made of the issues of lists. */

export { type DigestMade, makeDigests, makeDigestsUseCases, setDigest } from './make-digests.ts';
