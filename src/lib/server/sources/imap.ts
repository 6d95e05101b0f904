import type { ImapFlow } from 'imapflow';
import type { Source } from './sources-store.ts';

/** What is needed to sign in on a server. */
export type Account = Pick<Source, 'host' | 'port' | 'tls' | 'certificate' | 'user' | 'auth'> & { secret: string };

const CONNECT_MS = 15_000;
const SILENCE_MS = 120_000;
/* A server may hang up on who listens for half an hour (RFC 2177). */
const IDLE_MS = 20 * 60_000;

/** A server that did not do what was asked, with its answer in words, and what to do. */
export class ServerTrouble extends Error {
	override name = 'ServerTrouble';

	/** Whether the server does not accept who signs in. */
	get isNotAccepted(): boolean {
		return (this.cause as Answered | undefined)?.authenticationFailed === true;
	}
}

interface Answered {
	code?: string;
	authenticationFailed?: boolean;
	responseText?: string;
	responseStatus?: string;
	serverResponseCode?: string;
}

/* The last refusal of each server in its own words: the client answers some commands with "false" alone. */
const refusals = new WeakMap<ImapFlow, string>();

const oneLine = (text: string) => text.replaceAll(/\s+/g, ' ').slice(0, 200);

/** The words with which a server refused the last command that it refused; undefined: none were said. */
export function saidBy(client: ImapFlow): string | undefined {
	const said = refusals.get(client);
	// what was said once is said of no later command
	refusals.delete(client);
	return said;
}

/** Whether a failed command was refused by the server, and the line still stands. */
export const isRefusal = (error: unknown): boolean =>
	['NO', 'BAD'].includes((error as Answered).responseStatus ?? '') ||
	// the client's own word, for what is larger than the server said that it takes (RFC 7889)
	(error as Answered).serverResponseCode === 'APPENDLIMIT';

/* What went wrong, as a sentence for a person. The texts of a server may be long, and are cut. */
function inWords(error: unknown, { host, port, auth }: Account): string {
	const { code = '', authenticationFailed, responseText } = error as Answered;
	const said = responseText ? `: “${oneLine(responseText)}”` : '';
	if (authenticationFailed) return `${host} does not accept this user and ${auth}${said}. Check both.`;
	if (code === 'ENOTFOUND' || code === 'EAI_AGAIN') return `The name ${host} is not known. Check how it is written.`;
	if (code === 'ECONNREFUSED') return `Nothing listens at ${host}, port ${port}. Check the port, and the encryption.`;
	if (/CERT|SELF_SIGNED|UNABLE_TO_VERIFY|ALTNAME/.test(code))
		return `The certificate of ${host} is not trusted (${code}). If it is your own, give it as the certificate of this server.`;
	if (code === 'ETIMEDOUT' || code === 'CONNECT_TIMEOUT' || code === 'GREETING_TIMEOUT' || code === 'UPGRADE_TIMEOUT')
		return `${host}, port ${port}, did not answer in time. Check the port, and the encryption.`;
	if (/SSL|TLS|EPROTO/.test(code))
		return `${host}, port ${port}, does not speak this encryption (${code}). Try the other one.`;
	const reason = responseText ?? (error instanceof Error ? error.message : '');
	return `${host} did not do what was asked: ${oneLine(reason || code || 'no reason was given')}.`;
}

/* What is not here is not written down by the client, which else would put each answer together again for it, bodies and all. */
const SILENT = { error: () => {}, fatal: () => {} };

/**
 * Signs in, does something, and signs out.
 *
 * @throws ServerTrouble with a sentence
 */
export async function withServer<T>(
	account: Account,
	signal: AbortSignal,
	work: (client: ImapFlow) => Promise<T>
): Promise<T> {
	const client = await clientFor(account);
	const stop = () => client.close();
	signal.addEventListener('abort', stop, { once: true });
	try {
		await client.connect();
		const done = await work(client);
		await client.logout();
		return done;
	} catch (error) {
		client.close();
		if (error instanceof ServerTrouble) throw error;
		if (isOurs(error)) throw error;
		throw new ServerTrouble(inWords(error, account), { cause: error });
	} finally {
		signal.removeEventListener('abort', stop);
	}
}

/** Where an account's own folders begin on a server (RFC 2342); undefined: nowhere special. */
export const ownPrefix = ({ namespaces }: ImapFlow): string | undefined => (namespaces?.personal || [])[0]?.prefix;

/** Where the mailboxes of others and shared ones begin on a server (RFC 2342), as prefixes of paths. */
export const prefixesOfOthers = ({ namespaces }: ImapFlow): string[] =>
	[namespaces?.other, namespaces?.shared].flatMap((some) =>
		(some || []).flatMap(({ prefix }) => (prefix ? [prefix] : []))
	);

/** A client that is not connected yet. */
export async function clientFor(account: Account): Promise<ImapFlow> {
	// a quarter of all that a command or a thread would load, where most talk to no server
	const { ImapFlow: Client } = await import('imapflow');
	const note = ({ err }: { err?: Answered } = {}) => {
		if (err?.responseText) refusals.set(client, `“${oneLine(err.responseText)}”`);
	};
	const client: ImapFlow = new Client({
		host: account.host,
		port: account.port,
		secure: account.tls === 'implicit',
		doSTARTTLS: account.tls === 'starttls',
		auth:
			account.auth === 'token'
				? { user: account.user, accessToken: account.secret }
				: { user: account.user, pass: account.secret },
		// a certificate of one's own is trusted for this server alone
		...(account.certificate === null ? {} : { tls: { ca: account.certificate } }),
		clientInfo: { name: 'Kovrel' },
		// protocol logs would hold the password: refusals are taken out of them alone
		logger: { ...SILENT, warn: note } as never,
		emitLogs: false,
		disableAutoIdle: true,
		// the bytes as they are (RFC 3501 BODY.PEEK), not decoded on the way
		disableBinary: true,
		connectionTimeout: CONNECT_MS,
		greetingTimeout: CONNECT_MS,
		socketTimeout: SILENCE_MS,
		maxIdleTime: IDLE_MS
	});
	// told by the call that fails as well
	client.on('error', () => undefined);
	return client;
}

/* Whether a failure is of this side: refusals and the database's have nothing to do with the server. */
function isOurs(error: unknown): boolean {
	return error instanceof Error && (error.name === 'Refusal' || /^SQLITE/.test((error as Answered).code ?? ''));
}
