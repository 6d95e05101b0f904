import iconv from 'iconv-lite';
import type { DemoFile } from './files.ts';

/** A person or function with an address under .example. */
export interface Person {
	name: string;
	address: string;
}

/** A message of the scenario. */
export interface DemoMessage {
	from: Person;
	to: Person[];
	cc?: Person[];
	subject: string;
	at: Date;
	id: string;
	references?: string[];
	text: string;
	html?: string;
	charset?: string;
	files?: DemoFile[];
	/** Further header lines. */
	header?: string[];
	/** Without a Received field: as sent mail is. */
	sent?: boolean;
	seen?: boolean;
	answered?: boolean;
	flagged?: boolean;
}

const DAYS = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat'];
const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];
const two = (n: number) => String(n).padStart(2, '0');

function clock(at: Date): string {
	return `${two(at.getUTCHours())}:${two(at.getUTCMinutes())}:${two(at.getUTCSeconds())}`;
}

/** A date of RFC 5322. */
function mailDate(at: Date): string {
	return `${DAYS[at.getUTCDay()]}, ${at.getUTCDate()} ${MONTHS[at.getUTCMonth()]} ${at.getUTCFullYear()} ${clock(at)} +0000`;
}

function asctime(at: Date): string {
	return `${DAYS[at.getUTCDay()]} ${MONTHS[at.getUTCMonth()]} ${String(at.getUTCDate()).padStart(2)} ${clock(at)} ${at.getUTCFullYear()}`;
}

/* An encoded word (RFC 2047) where it is needed, in pieces of whole characters. */
function headerText(text: string, charset: string): string {
	if (/^[\x20-\x7e]*$/.test(text)) return text;
	const words: string[] = [];
	const characters = [...text];
	for (let at = 0; at < characters.length; at += 12)
		words.push(`=?${charset}?B?${iconv.encode(characters.slice(at, at + 12).join(''), charset).toString('base64')}?=`);
	return words.join('\r\n ');
}

function address({ name, address }: Person, charset: string): string {
	const plain = /^[\w .-]+$/.test(name) ? name : headerText(name, charset);
	return `${plain.includes('=?') || /^[\w ]+$/.test(plain) ? plain : `"${plain}"`} <${address}>`;
}

/* The same photograph is attached many times. */
const wrappedOnce = new WeakMap<Buffer, string>();

function wrapped(content: Buffer): string {
	const known = wrappedOnce.get(content);
	if (known !== undefined) return known;
	const text = content.toString('base64').replace(/.{76}/g, '$&\r\n');
	wrappedOnce.set(content, text);
	return text;
}

function textPart(type: string, text: string, charset: string): string {
	const bytes = iconv.encode(text.replace(/\r?\n/g, '\r\n'), charset);
	const ascii = bytes.every((byte) => byte < 128);
	return ascii
		? `Content-Type: ${type}; charset=${charset}\r\nContent-Transfer-Encoding: 7bit\r\n\r\n${bytes.toString('latin1')}\r\n`
		: `Content-Type: ${type}; charset=${charset}\r\nContent-Transfer-Encoding: base64\r\n\r\n${wrapped(bytes)}\r\n`;
}

function multipart(kind: string, boundary: string, parts: readonly string[]): string {
	return `Content-Type: multipart/${kind}; boundary="${boundary}"\r\n\r\n${parts.map((part) => `--${boundary}\r\n${part}\r\n`).join('')}--${boundary}--\r\n`;
}

function filePart({ name, type, content }: DemoFile): string {
	const plain = /^[\x20-\x7e]*$/.test(name);
	const parameter = plain ? `filename="${name}"` : `filename*=utf-8''${encodeURIComponent(name)}`;
	return `Content-Type: ${type}\r\nContent-Disposition: attachment; ${parameter}\r\nContent-Transfer-Encoding: base64\r\n\r\n${wrapped(content)}\r\n`;
}

/** The message as it goes over the crlfBytes. */
export function compose(message: DemoMessage): Buffer {
	const charset = message.charset ?? 'utf-8';
	const boundary = `=_${message.id.replace(/\W/g, '').slice(0, 30)}`;
	const text = textPart('text/plain', message.text, charset);
	const body = message.html
		? multipart('alternative', `${boundary}.alt`, [text, textPart('text/html', message.html, charset)])
		: text;
	const whole = message.files?.length ? multipart('mixed', boundary, [body, ...message.files.map(filePart)]) : body;
	const people = (list: readonly Person[]) => list.map((person) => address(person, charset)).join(',\r\n ');
	const receiver = message.to[0]?.address ?? 'office@skerryline.example';
	const lines = [
		...(message.sent
			? []
			: [
					`Received: from mx.${message.from.address.split('@')[1]} by mail.skerryline.example with ESMTP id ${boundary.slice(2, 12)}`,
					`\tfor <${receiver}>; ${mailDate(new Date(message.at.getTime() + 4_000))}`
				]),
		`From: ${address(message.from, charset)}`,
		`To: ${people(message.to)}`,
		...(message.cc?.length ? [`Cc: ${people(message.cc)}`] : []),
		`Subject: ${headerText(message.subject, charset)}`,
		`Date: ${mailDate(message.at)}`,
		`Message-ID: <${message.id}>`,
		...(message.references?.length
			? [
					`In-Reply-To: <${message.references.at(-1)}>`,
					`References: ${message.references.map((id) => `<${id}>`).join('\r\n ')}`
				]
			: []),
		...(message.header ?? []),
		'MIME-Version: 1.0'
	];
	return Buffer.from(`${lines.join('\r\n')}\r\n${whole}`, 'latin1');
}

/** The message as it stands in an mbox file (RFC 4155; Status fields as common practice). */
export function mboxEntry(
	bytes: Buffer,
	about: Pick<DemoMessage, 'from' | 'at' | 'seen' | 'answered' | 'flagged'>
): Buffer {
	const status = `Status: ${about.seen ? 'RO' : 'O'}\n${about.answered || about.flagged ? `X-Status: ${about.answered ? 'A' : ''}${about.flagged ? 'F' : ''}\n` : ''}`;
	const local = bytes
		.toString('latin1')
		.replaceAll('\r\n', '\n')
		.replace(/^(>*From )/gm, '>$1');
	return Buffer.from(`From ${about.from.address} ${asctime(about.at)}\n${status}${local}\n`, 'latin1');
}
