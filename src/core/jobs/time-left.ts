/** Work seen at a moment: how far it was, in whatever it counts. */
export interface Seen {
	/** In milliseconds. */
	at: number;
	done: number;
}

/* What was seen for less than this says little about the rest. */
const LEAST_MS = 3_000;
const MINUTE = 60_000;
const HOUR = 60 * MINUTE;

/**
 * How long work goes on at the rate at which it came from one moment to another, in words.
 *
 * @returns '' while that cannot be said yet
 */
export function timeLeftWords(from: Seen, now: Seen, total: number): string {
	const passed = now.at - from.at;
	const done = now.done - from.done;
	if (passed < LEAST_MS || done <= 0 || now.done >= total) return '';
	const left = ((total - now.done) * passed) / done;
	if (left < MINUTE) return 'less than a minute left';
	if (left < 1.5 * HOUR) {
		const minutes = Math.round(left / MINUTE);
		return minutes === 1 ? 'about 1 minute left' : `about ${minutes} minutes left`;
	}
	return `about ${Math.round(left / HOUR)} hours left`;
}
