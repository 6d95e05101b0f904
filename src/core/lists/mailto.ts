/** A message as a mailto address specifies it. */
export interface MailtoMessage {
	to: string;
	subject: string;
	body: string;
}

/* The longest text for an unsubscribe request by mail. */
const LONGEST_SUBJECT = 500;
const LONGEST_BODY = 2_000;
/* An addr-spec without quotes, blanks and comments. */
const ADDRESS = /^[^\s@<>()[\]\\,;:"]{1,64}@[a-z0-9.-]{1,253}$/i;

function decoded(text: string): string | undefined {
	try {
		return decodeURIComponent(text);
	} catch {
		return undefined;
	}
}

/**
 * Reads a mailto address. Only the first recipient, the subject and the body are taken: a list may not make somebody
 * write to others or add header fields.
 *
 * @returns undefined where it names nobody that can be written to
 * @see RFC 6068
 */
export function readMailto(uri: string): MailtoMessage | undefined {
	const found = /^mailto:([^?]*)(?:\?([\s\S]*))?$/i.exec(uri);
	if (!found) return undefined;
	const fields = new Map<string, string>();
	for (const field of (found[2] ?? '').split('&')) {
		const [name = '', value = ''] = field.split(/=([\s\S]*)/);
		const key = name.toLowerCase();
		const text = decoded(value);
		if (text !== undefined && !fields.has(key)) fields.set(key, text);
	}
	const recipients = [...(found[1] ?? '').split(',').map((part) => decoded(part) ?? ''), fields.get('to') ?? ''];
	const to = recipients.map((one) => one.trim()).find((one) => one !== '') ?? '';
	if (!ADDRESS.test(to)) return undefined;
	return {
		to,
		subject: (fields.get('subject') ?? '').replace(/\s+/g, ' ').trim().slice(0, LONGEST_SUBJECT),
		body: (fields.get('body') ?? '').replace(/\r\n?/g, '\n').slice(0, LONGEST_BODY)
	};
}
