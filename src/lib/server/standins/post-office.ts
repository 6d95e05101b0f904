import { mkdirSync, writeFileSync } from 'node:fs';
import { createServer, type Server, type ServerResponse } from 'node:http';
import path from 'node:path';
import type { MailTaker } from './mail-taker.ts';

/** Mail for a folder of a mailbox, as an mbox file. */
interface Post {
	mailbox: string;
	path: string;
	mbox: Buffer;
}

/** The mail of a day. */
export type PostOfDay = (day: string) => Iterable<Post>;

interface Asked {
	/** The last day whose mail was delivered; undefined: none. */
	since?: string;
	through: string;
	mailboxes: { name: string }[];
}

const DAY_MS = 86_400_000;
const MOST_DAYS = 400;

function daysBetween({ since, through }: Asked): string[] {
	const days: string[] = [];
	const end = Date.parse(through);
	for (
		let at = since === undefined ? end : Date.parse(since) + DAY_MS;
		at <= end && days.length < MOST_DAYS;
		at += DAY_MS
	)
		days.push(new Date(at).toISOString().slice(0, 10));
	return days;
}

/* Writes the mail of some days; a folder for each mailbox, a file for each of its folders. */
function deliver(folder: string, asked: Asked, post: PostOfDay): { mailbox: string; path: string }[] {
	const mail = new Map<string, Map<string, Buffer[]>>();
	for (const day of daysBetween(asked))
		for (const { mailbox, path: into, mbox } of post(day)) {
			if (mbox.length === 0 || !asked.mailboxes.some(({ name }) => name === mailbox)) continue;
			const folders = mail.get(mailbox) ?? new Map<string, Buffer[]>();
			folders.set(into, [...(folders.get(into) ?? []), mbox]);
			mail.set(mailbox, folders);
		}
	return [...mail].map(([mailbox, folders], at) => {
		const place = path.join(folder, 'post', `${asked.through}-${at}`);
		mkdirSync(place, { recursive: true });
		for (const [into, pieces] of folders) writeFileSync(path.join(place, `${into}.mbox`), Buffer.concat(pieces));
		return { mailbox, path: place };
	});
}

const escaped = (text: string) => text.replace(/[&<>"]/g, (sign) => `&#${sign.charCodeAt(0)};`);

function page(response: ServerResponse, status: number, html: string): void {
	response
		.writeHead(status, { 'content-type': 'text/html; charset=utf-8', 'content-security-policy': "default-src 'none'" })
		.end(`<!doctype html><meta charset="utf-8"><title>Post office of the demo</title><h1>Outgoing mail</h1>${html}`);
}

/** The post office: delivers the mail of a day on request, and shows sent mail. */
export function postOffice(
	folder: string,
	post: PostOfDay,
	taker: MailTaker,
	onDay: (day: string) => void = () => {}
): Server {
	return createServer((request, response) => {
		if (!/^(127\.0\.0\.1|localhost)(:\d+)?$/.test(request.headers.host ?? '')) return page(response, 421, '<p>No.</p>');
		if (request.method === 'POST' && request.url === '/deliver') {
			let body = '';
			request.setEncoding('utf8');
			request.on('data', (text: string) => (body += text));
			request.on('end', () => {
				try {
					const asked = JSON.parse(body) as Asked;
					const delivered = deliver(folder, asked, post);
					// on the mail server, mail is there by itself
					if (asked.since !== undefined) daysBetween(asked).forEach(onDay);
					response.writeHead(200, { 'content-type': 'application/json' }).end(JSON.stringify(delivered));
				} catch (error) {
					response.writeHead(500).end(error instanceof Error ? error.message : String(error));
				}
			});
			return;
		}
		const number = Number(/^\/mail\/(\d+)$/.exec(request.url ?? '')?.[1]);
		if (number > 0) {
			const bytes = taker.read(number);
			if (!bytes) return page(response, 404, '<p>There is no such mail.</p>');
			response
				.writeHead(200, { 'content-type': 'text/plain; charset=utf-8', 'x-content-type-options': 'nosniff' })
				.end(bytes);
			return;
		}
		const rows = taker.numbers().map((one) => {
			const head = taker.read(one)?.toString('latin1').split('\r\n\r\n')[0] ?? '';
			const field = (name: string) => escaped(new RegExp(`^${name}: (.*)$`, 'mi').exec(head)?.[1] ?? '');
			return `<tr><td><a href="/mail/${one}">${one}</a><td>${field('From')}<td>${field('To')}<td>${field('Subject')}`;
		});
		page(
			response,
			200,
			rows.length > 0
				? `<table><tr><th>No.<th>From<th>To<th>Subject${rows.join('')}</table>`
				: '<p>Nothing went out yet.</p>'
		);
	});
}
