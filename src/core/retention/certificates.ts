/** What a certificate says of the destruction as a whole. */
export interface CertificateHead {
	id: number;
	docketId: number;
	mailbox: string;
	/** ISO 8601 instant in UTC. */
	madeAt: string;
	/** Who decided it, and who carried it out. */
	decidedBy: string;
	madeBy: string;
	messages: number;
	bytes: number;
}

/** What a certificate says of one message. */
export interface CertificateLine {
	itemId: number;
	/** In hexadecimal digits. */
	sha256: string;
	bytes: number;
	receivedOn: string | null;
	/** On which day its period had ended; null where it was deleted, and had its days in the bin. */
	dueOn: string | null;
	/** Code, version and authority of the series; empty where there was none. */
	series: string;
	version: number | null;
	authority: string;
	/** What it was due under, in words. */
	because: string;
	/** Empty where the policy says that only the hash is kept. */
	from: string;
	subject: string;
	/** Whether the same bytes were still needed somewhere else. */
	isElsewhere: boolean;
}

/** Text of the head of a certificate, the first that is hashed. */
export function certificateHeadText(head: CertificateHead): string {
	const { id, docketId, mailbox, madeAt, decidedBy, madeBy, messages, bytes } = head;
	return `${JSON.stringify([id, docketId, mailbox, madeAt, decidedBy, madeBy, messages, bytes])}\n`;
}

/** Text of one line of a certificate. They are hashed in the order of their items. */
export function certificateLineText(line: CertificateLine): string {
	const { itemId, sha256, bytes, receivedOn, dueOn, series, version, authority, because, from, subject } = line;
	return `${JSON.stringify([itemId, sha256, bytes, receivedOn, dueOn, series, version, authority, because, from, subject, line.isElsewhere])}\n`;
}
