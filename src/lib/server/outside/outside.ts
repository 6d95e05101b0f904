import { lookup } from 'node:dns/promises';
import { request } from 'node:https';
import { isIP } from 'node:net';
import { Refusal } from '../refusal.ts';
import { isPublicAddress } from './addresses.ts';
import { type StandIns, standInsInEnvironment } from './stand-ins.ts';

/** An outgoing mail: plain text, nothing else. */
interface OutgoingMail {
	from: string;
	to: string;
	subject: string;
	text: string;
}

/** An outgoing mail whose bytes are finished. */
interface ComposedMail {
	from: string;
	to: readonly string[];
	raw: Buffer;
}

/** The result of a request. */
export interface OutsideAnswer {
	/** Whether it was accepted. */
	heard: boolean;
	/** Whether all of it was handed over and the answer never came: it may have been heard after all. */
	isUnknown?: boolean;
	/** In words, for the ledger. */
	said: string;
}

/** All of Kovrel's requests to the outside. */
export interface Outside {
	/** Whether mail can be sent. */
	canSend: boolean;
	/** The stand-ins; undefined: this is the real world. */
	standIns: StandIns | undefined;
	/** Sends a one-click unsubscribe request (RFC 8058). Never throws for what the other side does. */
	oneClick(url: string): Promise<OutsideAnswer>;
	/** Sends a mail. Never throws for what the other side does. */
	send(mail: OutgoingMail | ComposedMail): Promise<OutsideAnswer>;
}

/** The whole body of a one-click request (RFC 8058 section 3.1). */
export const ONE_CLICK_BODY = 'List-Unsubscribe=One-Click';
const TIME_LIMIT_MS = 15_000;
const LONGEST_ANSWER = 4_096;

interface Target {
	address: string;
	port: number;
	ca: string | undefined;
}

/** The resolver of names; a test uses its own. */
export interface Resolver {
	(host: string): Promise<string[]>;
}

const byDns: Resolver = async (host) =>
	(await lookup(host, { all: true, verbatim: true })).map(({ address }) => address);

/*
 * The checked address is the one that is connected to, so that a second look-up cannot give another one. All
 * addresses of a name have to be public: a private one shows what the name is for.
 */
async function targetOf(url: URL, standIns: StandIns | undefined, resolve: Resolver): Promise<Target | string> {
	const host = url.hostname.replace(/^\[|\]$/g, '');
	if (standIns && host.endsWith('.example')) return { address: '127.0.0.1', port: standIns.https, ca: standIns.ca };
	let addresses: string[];
	try {
		addresses = isIP(host) ? [host] : await resolve(host);
	} catch {
		return `the name ${host} is not known`;
	}
	if (addresses.length === 0) return `the name ${host} is not known`;
	if (!addresses.every(isPublicAddress)) return `${host} is not of the public network: nothing was sent`;
	return { address: addresses[0] as string, port: Number(url.port || 443), ca: undefined };
}

function postTo(url: URL, { address, port, ca }: Target, timeLimit: number): Promise<OutsideAnswer> {
	return new Promise((done) => {
		const end = (answer: OutsideAnswer) => {
			done(answer);
			asked.destroy();
		};
		const asked = request(
			{
				host: address,
				port,
				path: url.pathname + url.search,
				method: 'POST',
				...(isIP(url.hostname.replace(/^\[|\]$/g, '')) ? {} : { servername: url.hostname }),
				...(ca === undefined ? {} : { ca }),
				agent: false,
				signal: AbortSignal.timeout(timeLimit),
				headers: {
					host: url.host,
					'content-type': 'application/x-www-form-urlencoded',
					'content-length': ONE_CLICK_BODY.length
				}
			},
			(response) => {
				const { statusCode = 0 } = response;
				let read = 0;
				const over = () => {
					if (statusCode >= 200 && statusCode < 300) end({ heard: true, said: `answered ${statusCode}` });
					else if (statusCode >= 300 && statusCode < 400)
						end({ heard: false, said: `answered ${statusCode}, a redirect, which is not followed` });
					else end({ heard: false, said: `answered ${statusCode}` });
				};
				response.on('data', (bytes: Buffer) => {
					read += bytes.length;
					if (read > LONGEST_ANSWER) over();
				});
				response.on('end', over);
				response.on('error', () => end({ heard: false, said: 'broke off in the middle of its answer' }));
			}
		);
		asked.on('error', (error: NodeJS.ErrnoException) =>
			end({
				heard: false,
				said:
					error.name === 'TimeoutError' || error.name === 'AbortError'
						? `did not answer within ${timeLimit / 1000} seconds`
						: `could not be reached (${error.code ?? error.message})`
			})
		);
		asked.end(ONE_CLICK_BODY);
	});
}

/* A logger of nodemailer, which notes when the last byte of a mail is written. */
function noting(onHandedOver: () => void): object {
	const quiet = () => undefined;
	return {
		...{ trace: quiet, debug: quiet, warn: quiet, error: quiet, fatal: quiet, level: quiet },
		info: (entry?: { tnx?: string }) => {
			if (entry?.tnx === 'message') onHandedOver();
		}
	};
}

/** The outside by the environment: KOVREL_SMTP names the server for outgoing mail, KOVREL_STANDINS the stand-ins. */
export function openOutside({
	resolve = byDns,
	standIns = standInsInEnvironment(),
	smtp = process.env.KOVREL_SMTP || undefined,
	timeLimit = TIME_LIMIT_MS
}: {
	resolve?: Resolver;
	standIns?: StandIns | undefined;
	smtp?: string | undefined;
	timeLimit?: number;
} = {}): Outside {
	const server = standIns ? `smtp://127.0.0.1:${standIns.smtp}` : smtp;
	return {
		canSend: server !== undefined,
		standIns,
		async oneClick(address) {
			const url = new URL(address);
			if (url.protocol !== 'https:') return { heard: false, said: 'its address is not https' };
			const target = await targetOf(url, standIns, resolve);
			return typeof target === 'string' ? { heard: false, said: target } : postTo(url, target, timeLimit);
		},
		async send(mail) {
			if (server === undefined)
				throw new Refusal(
					'not-possible',
					'No server for outgoing mail is set (KOVREL_SMTP), so no mail can go out. Nothing was sent.'
				);
			// loaded when mail is sent, as few processes need it
			const { createTransport } = await import('nodemailer');
			let isHandedOver = false;
			const transport = createTransport({
				url: server,
				disableFileAccess: true,
				disableUrlAccess: true,
				// well below the time after which it would be said that nobody knows whether a mail went
				connectionTimeout: timeLimit,
				greetingTimeout: timeLimit,
				socketTimeout: 4 * timeLimit,
				logger: noting(() => (isHandedOver = true))
			} as object);
			try {
				const { response, rejected } = await transport.sendMail({
					...('raw' in mail ? { envelope: { from: mail.from, to: [...mail.to] }, raw: mail.raw } : mail),
					disableFileAccess: true,
					disableUrlAccess: true
				});
				const refused = rejected.length === 0 ? '' : `; not taken for ${rejected.map(String).join(', ').slice(0, 500)}`;
				return { heard: true, said: `mail taken: ${response.slice(0, 200)}${refused}` };
			} catch (error) {
				const { code, response } = error as { code?: string; response?: string };
				// the server may have taken it before the connection broke (RFC 5321 section 4.5.3.2.6)
				if (isHandedOver && response === undefined)
					return {
						heard: false,
						isUnknown: true,
						said: `the connection broke after the whole mail was handed over (${code ?? 'unknown'}): it may have gone`
					};
				return { heard: false, said: `the mail could not be sent (${(response ?? code ?? 'unknown').slice(0, 200)})` };
			} finally {
				transport.close();
			}
		}
	};
}
