import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import type { IncomingMessage, RequestListener, ServerResponse } from 'node:http';
import { createServer, type Server } from 'node:https';

/** How a list reacts to an unsubscribe request. */
export type ListManner = 'obeys' | 'slow' | 'fails' | 'redirects' | 'ignores' | 'hangs';

/** The addresses unsubscribed from each list; stored in a file, so that a restart changes nothing. */
export class Subscriptions {
	#file: string;
	#left: Record<string, string[]>;

	constructor(file: string) {
		this.#file = file;
		this.#left = existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as Record<string, string[]>) : {};
	}

	/** Whether an address has unsubscribed from a list. */
	hasLeft(listId: string, address: string): boolean {
		return this.#left[listId]?.includes(address.toLowerCase()) ?? false;
	}

	/** Stores that an address has unsubscribed from a list. */
	leave(listId: string, address: string): void {
		if (this.hasLeft(listId, address)) return;
		this.#left[listId] = [...(this.#left[listId] ?? []), address.toLowerCase()];
		writeFileSync(this.#file, JSON.stringify(this.#left));
	}
}

const SLOW_MS = 3_000;
const LONGEST_BODY = 1_000;

function read(request: IncomingMessage): Promise<string> {
	return new Promise((resolve) => {
		let body = '';
		request.setEncoding('latin1');
		request.on('data', (text: string) => {
			if (body.length < LONGEST_BODY) body += text;
		});
		request.on('end', () => resolve(body));
		request.on('error', () => resolve(body));
	});
}

function say(response: ServerResponse, status: number, text: string, headers: Record<string, string> = {}): void {
	response.writeHead(status, { 'content-type': 'text/plain; charset=utf-8', ...headers }).end(`${text}\n`);
}

/**
 * The operators of all lists of the demo, each with its own reaction; a list is recognised by the host name of the
 * request.
 */
export class ListOperator {
	#manners: ReadonlyMap<string, ListManner>;
	#subscriptions: Subscriptions;
	/** All requests, for inspection. */
	readonly asked: { method: string; host: string; path: string; body: string; cookies: boolean }[] = [];

	constructor(manners: ReadonlyMap<string, ListManner>, subscriptions: Subscriptions) {
		this.#manners = manners;
		this.#subscriptions = subscriptions;
	}

	/** Handles an unsubscribe request, in whatever form it came. */
	wish(listId: string, address: string): ListManner | undefined {
		const manner = this.#manners.get(listId);
		if (manner === 'obeys' || manner === 'slow') this.#subscriptions.leave(listId, address);
		return manner;
	}

	readonly #answer: RequestListener = (request, response) => {
		void (async () => {
			const host = (request.headers.host ?? '').replace(/:\d+$/, '').toLowerCase();
			const path = request.url ?? '/';
			const body = await read(request);
			this.asked.push({
				method: request.method ?? '',
				host,
				path,
				body,
				cookies: request.headers.cookie !== undefined
			});
			const token = /^\/leave\/([\w-]+)/.exec(path)?.[1];
			if (!this.#manners.has(host) || token === undefined) return say(response, 404, 'There is no such list.');
			// a link that is only opened asks for a click; a request has to conform to RFC 8058
			if (request.method === 'POST' && body !== 'List-Unsubscribe=One-Click' && body !== 'leave=yes')
				return say(response, 400, 'That is no request to leave.');
			if (request.method !== 'POST')
				return say(
					response,
					200,
					'<!doctype html><title>Leave the list</title><form method="post"><input type="hidden" name="leave" value="yes"><button>Leave this list</button></form>',
					{ 'content-type': 'text/html; charset=utf-8' }
				);
			switch (this.wish(host, Buffer.from(token, 'base64url').toString())) {
				case 'fails':
					return say(response, 500, 'Something went wrong.');
				case 'redirects':
					return say(response, 302, 'Elsewhere.', { location: `https://${host}/are-you-sure` });
				case 'hangs':
					return;
				case 'slow':
					setTimeout(() => say(response, 200, 'You have left the list.'), SLOW_MS);
					return;
				default:
					return say(response, 200, 'You have left the list.');
			}
		})();
	};

	/** The server of all lists, before it listens. */
	server(tls: { key: string; cert: string }): Server {
		return createServer(tls, this.#answer);
	}
}
