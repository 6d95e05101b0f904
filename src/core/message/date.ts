/** Seconds since 1970-01-01T00:00:00Z. */
export type Instant = number;

const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec'];

/* Minutes east of Greenwich of the zones named in RFC 5322 section 4.3; all others mean "unknown", so zero. */
const NAMED_ZONES: Record<string, number> = {
	est: -300,
	edt: -240,
	cst: -360,
	cdt: -300,
	mst: -420,
	mdt: -360,
	pst: -480,
	pdt: -420
};

function withoutComments(text: string): string {
	if (!/[()]/.test(text)) return text;
	let depth = 0;
	let out = '';
	let isEscaped = false;
	for (const c of text) {
		if (isEscaped) {
			isEscaped = false;
			continue;
		}
		if (c === '\\' && depth > 0) isEscaped = true;
		else if (c === '(') depth++;
		else if (c === ')') depth = Math.max(0, depth - 1);
		else if (depth === 0) out += c;
	}
	return out;
}

/*
 * RFC 5322 section 4.3 for two digits. Three digits stay as they are: a clock that wrote "102" was wrong, and
 * guessing 2002 could make something due that is not.
 */
function fullYear(digits: string): number {
	const year = Number(digits);
	if (digits.length > 2) return year;
	return year < 50 ? 2000 + year : 1900 + year;
}

function zoneMinutes(zone: string | undefined): number {
	const numeric = /^([+-])(\d{2})(\d{2})$/.exec(zone ?? '');
	if (!numeric) return NAMED_ZONES[(zone ?? '').toLowerCase()] ?? 0;
	return (numeric[1] === '-' ? -1 : 1) * (Number(numeric[2]) * 60 + Number(numeric[3]));
}

function instant(year: number, month: number, day: number, clock: string[], minutesEast: number): Instant | undefined {
	const [hour = 0, minute = 0, second = 0] = clock.map((part) => Number(part ?? 0));
	if (month < 0 || day < 1 || day > 31 || hour > 24 || minute > 59 || second > 60) return undefined;
	const date = new Date(0);
	date.setUTCFullYear(year, month, day);
	date.setUTCHours(hour, minute, Math.min(second, 59));
	if (date.getUTCDate() !== day && hour < 24) return undefined;
	return date.getTime() / 1000 - minutesEast * 60;
}

const DATE =
	/(?:^|[\s,])(\d{1,2})[\s-]+([a-z]{3})[a-z]*\.?[\s-]+(\d{2,4})\s+(\d{1,2})\s*:\s*(\d{1,2})(?:\s*:\s*(\d{1,2}))?(?:\s*([+-]\d{4}|[a-z]+))?/i;

/** `Thu Aug 22 12:46:39 2002`, the date of C's asctime, with an optional zone before or after the year. */
const ASCTIME =
	/([a-z]{3})\s+(\d{1,2})\s+(\d{1,2}):(\d{1,2})(?::(\d{1,2}))?\s+(?:([+-]\d{4}|[a-z]{1,5})\s+)?(\d{4})(?:\s+([+-]\d{4}|[a-z]{1,5}))?/i;

/**
 * The instant of a Date field.
 *
 * @param value the field's value
 * @returns undefined where there is no date in it
 * @see RFC 5322 sections 3.3 and 4.3
 */
export function parseDate(value: string): Instant | undefined {
	const text = withoutComments(value.slice(0, 200));
	const found = DATE.exec(text);
	if (!found) return parseAsctime(text);
	const [, day, month = '', year = '', hour = '', minute = '', second = '0', zone] = found;
	return instant(
		fullYear(year),
		MONTHS.indexOf(month.toLowerCase()),
		Number(day),
		[hour, minute, second],
		zoneMinutes(zone)
	);
}

/** The instant of an asctime date, as in an mbox `From ` line (RFC 4155: in UTC unless it has a zone). */
export function parseAsctime(text: string): Instant | undefined {
	const found = ASCTIME.exec(text.slice(0, 400));
	if (!found) return undefined;
	const [, month = '', day, hour = '', minute = '', second = '0', zoneBefore, year, zoneBehind] = found;
	return instant(
		Number(year),
		MONTHS.indexOf(month.toLowerCase()),
		Number(day),
		[hour, minute, second],
		zoneMinutes(zoneBefore ?? zoneBehind)
	);
}

const DAY = 86_400;
/* Invariant 6: a date before 1980, or more than a day in the future, cannot be true. */
const EARLIEST: Instant = Date.UTC(1980, 0, 1) / 1000;

/** Whether a date can be true, seen from `now` (invariant 6). */
export function isPlausible(date: Instant | undefined, now: Instant): date is Instant {
	return date !== undefined && date >= EARLIEST && date <= now + DAY;
}

/** Sources for the date on which a message was received. */
export interface DateEvidence {
	/** The topmost Received field: written by the server that took the message in. */
	received?: Instant | undefined;
	/** The mbox `From ` line, or the time of a Maildir file. */
	envelope?: Instant | undefined;
	/** The Date field: written by the sender. */
	date?: Instant | undefined;
}

/** The date on which a message was received, and whether a person has to review it. */
export interface ReceivedDate {
	at: Instant | undefined;
	/** The date is missing or cannot be true: it never makes anything due (invariant 6). */
	inDoubt: boolean;
}

/* A `From ` line this much later than the Date was written by an export, not by a delivery. */
const LONGEST_DELIVERY = 30 * DAY;

/**
 * Decides when a message was received: the first plausible one of the topmost Received field; the envelope's date, if
 * it lies from a day before to 30 days after the Date (else it tells when the file was written); the Date field; the
 * envelope's date. If none is plausible, the first one given is taken, in doubt.
 */
export function receivedDate(evidence: DateEvidence, now: Instant): ReceivedDate {
	const { received, envelope, date } = evidence;
	const delivered =
		envelope !== undefined && isPlausible(date, now) && envelope >= date - DAY && envelope <= date + LONGEST_DELIVERY;
	const order = delivered ? [received, envelope, date] : [received, date, envelope];
	const plausible = order.find((candidate) => isPlausible(candidate, now));
	if (plausible !== undefined) return { at: plausible, inDoubt: false };
	return { at: order.find((candidate) => candidate !== undefined), inDoubt: true };
}

/** The instant in a Received field: the text after its last semicolon (RFC 5321 section 4.4). */
export function parseReceived(value: string | undefined): Instant | undefined {
	if (!value) return undefined;
	const semicolon = value.lastIndexOf(';');
	return semicolon < 0 ? undefined : parseDate(value.slice(semicolon + 1));
}
