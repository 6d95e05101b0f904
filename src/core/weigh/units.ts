const UNITS = ['bytes', 'kB', 'MB', 'GB', 'TB'];
/* No line ends between a number and its unit. */
const NO_BREAK = '\u00a0';

/**
 * A size as it is shown: powers of 1000 (IEC 80000-13, SI), three significant digits at the most, joined to its unit by a
 * no-break space.
 *
 * @param bytes a number of bytes, not negative
 */
export function showBytes(bytes: number): string {
	let value = bytes;
	let unit = 0;
	// 999.5 would be shown as 1000
	while (value >= 999.5 && unit < UNITS.length - 1) {
		value /= 1000;
		unit++;
	}
	if (unit === 0) return `${bytes}${NO_BREAK}${bytes === 1 ? 'byte' : 'bytes'}`;
	return `${value < 9.995 ? value.toFixed(2) : value < 99.95 ? value.toFixed(1) : value.toFixed(0)}${NO_BREAK}${UNITS[unit]}`;
}

const FACTORS: Record<string, number> = {
	'': 1,
	b: 1,
	byte: 1,
	bytes: 1,
	k: 1e3,
	kb: 1e3,
	m: 1e6,
	mb: 1e6,
	g: 1e9,
	gb: 1e9,
	t: 1e12,
	tb: 1e12
};

/**
 * Reads a size as people type it: `500 MB`, `1.5GB`, `2000000`.
 *
 * @returns bytes, or undefined where it is no size
 */
export function readBytes(text: string): number | undefined {
	const found = /^\s*(\d+(?:\.\d+)?)\s*([a-z]*)\s*$/i.exec(text);
	const factor = FACTORS[found?.[2]?.toLowerCase() ?? 'none'];
	if (!found || factor === undefined) return undefined;
	const bytes = Math.round(Number(found[1]) * factor);
	return Number.isSafeInteger(bytes) ? bytes : undefined;
}

const grouped = (digits: string) => digits.replace(/\B(?=(\d{3})+(?!\d))/g, ',');

/** A count as it is shown: `4,812`. */
export function showCount(count: number): string {
	return grouped(String(count));
}

/** A count with its noun: `1 message`, `4,812 messages`. */
export function showMessages(count: number): string {
	return `${showCount(count)} ${count === 1 ? 'message' : 'messages'}`;
}

/** A share as it is shown, rounded so that neither "0 %" nor "100 %" is said of a part. */
export function showShare(part: number, whole: number): string {
	if (whole <= 0 || part <= 0) return `0${NO_BREAK}%`;
	if (part >= whole) return `${Math.round((100 * part) / whole)}${NO_BREAK}%`;
	const percent = Math.round((100 * part) / whole);
	return percent === 0 ? `under 1${NO_BREAK}%` : percent === 100 ? `over 99${NO_BREAK}%` : `${percent}${NO_BREAK}%`;
}
