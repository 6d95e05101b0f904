import { type AddressInfo, connect, createServer } from 'node:net';

/* Stands between Kovrel and a mail server: notes what is said, cuts lines, and hides what the server can do. */

/** How a proxy disturbs. */
export interface Disturbing {
	/** The line breaks after so many bytes of the server, what is sent to it until then included. */
	cutAfter?: number;
	/** The line breaks after so many bytes of the client: the last command arrives in part. */
	cutSentAfter?: number;
	/** Extensions that the server does not seem to have. */
	hides?: readonly string[];
	/** Words of the client that arrive as others of the same length, which the server does not know. */
	garbles?: readonly string[];
	/** Each answer comes so much later. */
	delayMs?: number;
}

/** A proxy of a test on loopback. */
export interface ImapProxy {
	port: number;
	/** The commands of the client. */
	said: () => string[];
}

/** @param onEnd takes what ends the proxy */
export async function startProxy(
	onEnd: (end: () => void) => void,
	to: number,
	{ cutAfter = Infinity, cutSentAfter = Infinity, hides = [], garbles = [], delayMs = 0 }: Disturbing = {}
): Promise<ImapProxy> {
	let heard = '';
	let answered = 0;
	let sent = 0;
	const proxy = createServer((client) => {
		const target = connect(to, '127.0.0.1');
		client.on('data', (given) => {
			const text = given.toString('latin1');
			heard += text;
			const bytes = Buffer.from(
				garbles.reduce((said, word) => said.replaceAll(word, `${word.slice(0, -1)}X`), text),
				'latin1'
			);
			const rest = cutSentAfter - sent;
			sent += bytes.length;
			if (bytes.length <= rest) target.write(bytes);
			else {
				if (rest > 0) target.write(bytes.subarray(0, rest));
				client.destroy();
				target.end();
			}
		});
		target.on('data', (bytes) => {
			answered += bytes.length;
			if (answered > cutAfter) client.destroy();
			// as long as before, so that literals keep their lengths
			const hidden = hides.reduce((text, name) => text.replaceAll(name, `X${name.slice(1)}`), bytes.toString('latin1'));
			const hand = () => {
				if (!client.destroyed) client.write(Buffer.from(hidden, 'latin1'));
			};
			if (delayMs > 0) setTimeout(hand, delayMs);
			else hand();
		});
		target.on('end', () => client.end());
		client.on('close', () => target.end());
		for (const socket of [client, target]) socket.on('error', () => socket.destroy());
	});
	onEnd(() => void proxy.close());
	await new Promise<void>((listening) => proxy.listen(0, '127.0.0.1', listening));
	return {
		port: (proxy.address() as AddressInfo).port,
		// a continuation of AUTHENTICATE is one word of base64
		said: () => heard.split('\r\n').filter((line) => line.includes(' '))
	};
}
