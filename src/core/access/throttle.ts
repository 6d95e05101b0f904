import type { Instant } from '../message/date.ts';

/** Recent failed attempts: wrong passwords or codes for one account from one kind of place. */
export interface Failures {
	failures: number;
	lastAt: Instant;
}

/* OWASP ASVS 2.2.1 allows a hundred an hour; here it is about a dozen. Nobody is locked out for good. */
const FREE = 5;
const FIRST_WAIT = 15;
const LONGEST_WAIT = 15 * 60;

/**
 * How long a person waits before the next attempt.
 *
 * @returns seconds; 0 where one may try at once
 */
export function waitSeconds(before: Failures | undefined, now: Instant): number {
	if (!before || before.failures < FREE) return 0;
	const wait = Math.min(LONGEST_WAIT, FIRST_WAIT * 2 ** (before.failures - FREE));
	return Math.max(0, before.lastAt + wait - now);
}

/** A day without a failure clears the count. */
export const FORGOTTEN_AFTER = 86_400;

/** The failures after one more. */
export function oneMore(before: Failures | undefined, now: Instant): Failures {
	const remembered = before && now - before.lastAt < FORGOTTEN_AFTER ? before.failures : 0;
	return { failures: remembered + 1, lastAt: now };
}

/* NIST SP 800-63B and OWASP ASVS 3.3: a session ends by itself. */
const IDLE = 12 * 3_600;
/** No session lasts longer, in seconds. */
export const LONGEST_SESSION = 7 * 86_400;
/* Between password and code. */
const HALF = 10 * 60;

/** Whether a session is over. @param whole false: a code is waited for */
export function isOver(session: { beganAt: Instant; seenAt: Instant }, whole: boolean, now: Instant): boolean {
	if (!whole && now - session.beganAt > HALF) return true;
	return now - session.seenAt > IDLE || now - session.beganAt > LONGEST_SESSION;
}
