/** So many of the last decisions on a sender's mail are looked at, and so many of them have to be alike. */
const LIKELY_OF = 5;
const LIKELY_ALIKE = 4;

/**
 * The decision that is likely for a sender's next message: four of the last five were alike. It is marked, never made by
 * itself.
 *
 * @param last the last decisions on the sender's mail, as text; only the first five count
 * @returns undefined where fewer than five were made, or they differ
 */
export function likelyOf<T extends string>(last: readonly T[]): T | undefined {
	const looked = last.slice(0, LIKELY_OF);
	if (looked.length < LIKELY_OF) return undefined;
	return looked.find((one) => looked.filter((other) => other === one).length >= LIKELY_ALIKE);
}
