import { type ChildProcess, spawn, spawnSync } from 'node:child_process';
import {
	chmodSync,
	chownSync,
	existsSync,
	mkdirSync,
	readdirSync,
	readFileSync,
	rmSync,
	utimesSync,
	writeFileSync
} from 'node:fs';
import { connect, createServer, type Socket } from 'node:net';
import path from 'node:path';

/* Debian's dovecot-imapd on a loopback port, with a configuration and a data folder of the test's own. */

/** Whether the server is installed; the test set-up does that. */
export function hasImapServer(): boolean {
	return spawnSync('dovecot', ['--version']).status === 0 && process.getuid?.() === 0;
}

/** Whether scripts can be put on it; the test set-up installs what that needs. */
export const hasSieveServer = (): boolean => hasImapServer() && existsSync('/usr/lib/dovecot/managesieve');

function freePort(): Promise<number> {
	return new Promise((resolve, reject) => {
		const probe = createServer();
		probe.once('error', reject);
		probe.listen(0, '127.0.0.1', () => {
			const { port } = probe.address() as { port: number };
			probe.close(() => resolve(port));
		});
	});
}

/** What a test wants of the server beyond the usual. */
interface Wish {
	/** PEM of a certificate and its key: STARTTLS is offered with them. */
	tls?: { cert: string; key: string } | undefined;
	/** The key with which bearer tokens are signed (JWT, HS256): OAUTHBEARER is offered (RFC 7628). */
	tokenKey?: Buffer | undefined;
	/** Folders that several accounts see, below Shared (RFC 2342). */
	shares?: boolean | undefined;
	/** Whether scripts can be put there (RFC 5804). */
	sieve?: boolean | undefined;
	/** What parts the levels of a path; undefined: a slash. */
	separator?: '.' | undefined;
	/** Where an account's own folders begin, as below INBOX (RFC 2342); undefined: nowhere special. */
	prefix?: 'INBOX.' | undefined;
	/** How it stores mail; undefined: maildir, which takes six times as long to put thousands of messages there. */
	format?: 'sdbox' | undefined;
}

function write(folder: string, name: string, text: string): string {
	const file = path.join(folder, name);
	mkdirSync(path.dirname(file), { recursive: true });
	writeFileSync(file, text);
	// the server reads it under an account of its own, whatever the mask of this process is
	for (let place = file; place !== folder; place = path.dirname(place)) chmodSync(place, 0o755);
	return file;
}

const encryption = (folder: string, { tls }: Wish) =>
	tls
		? `ssl = yes
ssl_cert = <${write(folder, 'server.crt', tls.cert)}
ssl_key = <${write(folder, 'server.key', tls.key)}`
		: 'ssl = no';

/* https://doc.dovecot.org/2.3/configuration_manual/authentication/oauth2/, local validation. */
function bearerTokens(folder: string, { tokenKey }: Wish): string {
	if (!tokenKey) return '';
	write(folder, 'token-keys/default/HS256/default', tokenKey.toString('base64'));
	const file = write(
		folder,
		'tokens.conf',
		`introspection_mode = local
local_validation_key_dict = fs:posix:prefix=${folder}/token-keys/
username_attribute = sub
`
	);
	return `passdb {
  driver = oauth2
  mechanisms = oauthbearer xoauth2
  args = ${file}
}
`;
}

const sharedFolders = (folder: string, { shares }: Wish) =>
	shares
		? `namespace shared {
  type = public
  separator = /
  prefix = Shared/
  location = maildir:${folder}/mail/shared
  subscriptions = no
}
`
		: '';

const sieveServer = (folder: string, { sieve }: Wish, port: number) =>
	sieve
		? `service managesieve-login {
  inet_listener sieve {
    address = 127.0.0.1
    port = ${port}
  }
}
plugin {
  sieve = file:${folder}/mail/%u/sieve;active=${folder}/mail/%u/active.sieve
  sieve_extensions = +regex
}
`
		: '';

const configuration = (folder: string, port: number, sievePort: number, wish: Wish) => `base_dir = ${folder}/run
log_path = ${folder}/imap.log
protocols = imap${wish.sieve ? ' sieve' : ''}
listen = 127.0.0.1
${encryption(folder, wish)}
disable_plaintext_auth = no
auth_mechanisms = plain login${wish.tokenKey ? ' oauthbearer xoauth2' : ''}
mail_location = ${wish.format ?? 'maildir'}:${folder}/mail/%u/box
mail_fsync = never
mail_plugins = quota
mail_max_userip_connections = 200
protocol imap {
  mail_plugins = quota imap_quota
}
plugin {
  quota = count:User quota
  quota_rule = *:storage=2G
  quota_vsizes = yes
}
${bearerTokens(folder, wish)}passdb {
  driver = static
  mechanisms = plain login
  args = password=secret
}
userdb {
  driver = static
  args = uid=5000 gid=5000 home=${folder}/mail/%u
}
namespace inbox {
  inbox = yes
  separator = ${wish.separator ?? '/'}
  prefix = ${wish.prefix ?? ''}
  mailbox Bin {
    special_use = \\Trash
  }
  mailbox Everything {
    special_use = \\All
  }
}
${sharedFolders(folder, wish)}${sieveServer(folder, wish, sievePort)}service anvil {
  unix_listener anvil-auth-penalty {
    mode = 0
  }
}
service imap-login {
  inet_listener imap {
    address = 127.0.0.1
    port = ${port}
  }
  inet_listener imaps {
    port = 0
  }
}
`;

/** A server for one test. */
export class ImapServer {
	readonly port: number;
	/** Where scripts are put, if that was wished. */
	readonly sievePort: number;
	readonly #folder: string;
	#process: ChildProcess;
	#socket: Socket;
	#received = Buffer.alloc(0);
	#wake: (() => void) | undefined;
	#tag = 0;

	private constructor(folder: string, port: number, sievePort: number, process: ChildProcess, socket: Socket) {
		this.#folder = folder;
		this.port = port;
		this.sievePort = sievePort;
		this.#process = process;
		this.#socket = socket;
		socket.on('data', (bytes: Buffer) => {
			this.#received = Buffer.concat([this.#received, bytes]);
			this.#wake?.();
		});
	}

	/**
	 * @param folder an empty one, of the test's own
	 * @param onEnd takes what ends the server, also if the test fails before its end
	 */
	static async start(
		folder: string,
		onEnd: (end: () => void) => void = () => {},
		wish: Wish = {}
	): Promise<ImapServer> {
		chmodSync(folder, 0o755);
		mkdirSync(path.join(folder, 'mail'));
		chownSync(path.join(folder, 'mail'), 5000, 5000);
		const port = await freePort();
		const file = path.join(folder, 'imap.conf');
		const sievePort = await freePort();
		writeFileSync(file, configuration(folder, port, sievePort, wish));
		const server = spawn('dovecot', ['-F', '-c', file], { stdio: 'ignore' });
		onEnd(() => void server.kill('SIGTERM'));
		for (let tries = 0; ; tries++) {
			const socket = await new Promise<Socket | undefined>((resolve) => {
				const attempt = connect(port, '127.0.0.1', () => resolve(attempt));
				attempt.once('error', () => resolve(undefined));
			});
			if (socket) {
				const started = new ImapServer(folder, port, sievePort, server, socket);
				await started.#until(/^\* OK .*\r\n/);
				await started.command('LOGIN tester secret');
				return started;
			}
			if (tries > 200) throw new Error('The IMAP server does not answer');
			await new Promise((resolve) => setTimeout(resolve, 50));
		}
	}

	async #until(pattern: RegExp): Promise<string> {
		for (;;) {
			const text = this.#received.toString('latin1');
			const found = pattern.exec(text);
			if (found) {
				const end = found.index + found[0].length;
				this.#received = this.#received.subarray(end);
				return text.slice(0, end);
			}
			await new Promise<void>((resolve) => {
				this.#wake = resolve;
			});
		}
	}

	/** Sends a command and returns the whole answer. @throws Error if it is refused */
	async command(words: string): Promise<string> {
		const tag = `a${++this.#tag}`;
		this.#socket.write(`${tag} ${words}\r\n`);
		return this.#finish(tag);
	}

	async #finish(tag: string): Promise<string> {
		const answer = await this.#until(new RegExp(`^${tag} (OK|NO|BAD)[^\\r]*\\r\\n`, 'm'));
		if (!answer.includes(`${tag} OK`)) throw new Error(`The IMAP server refuses: ${answer.slice(-300)}`);
		return answer;
	}

	/** Appends messages to a folder without waiting in between (RFC 7888 LITERAL+). */
	async append(folder: string, messages: AsyncIterable<Buffer> | Iterable<Buffer>): Promise<void> {
		let tag = '';
		for await (const message of messages) {
			tag = `a${++this.#tag}`;
			const taken = this.#socket.write(
				Buffer.concat([Buffer.from(`${tag} APPEND "${folder}" {${message.length}+}\r\n`), message, Buffer.from('\r\n')])
			);
			if (!taken) await new Promise((resolve) => this.#socket.once('drain', resolve));
		}
		if (tag) await this.#finish(tag);
	}

	/* Where a folder lies as maildir, without what the server remembers of its messages. */
	#withoutIndex(folder: string): string {
		const place = path.join(this.#folder, 'mail/tester/box', folder === 'INBOX' ? '' : `.${folder}`);
		for (const name of readdirSync(place))
			if (name.startsWith('dovecot.index')) rmSync(path.join(place, name), { recursive: true });
		return place;
	}

	/**
	 * Puts other messages in the place of a folder's, under the same numbers and UIDVALIDITY, as a server that was restored
	 * or replaced may have them.
	 *
	 * @param messages as many as the folder has
	 */
	replaceMail(folder: string, messages: readonly Buffer[]): void {
		const place = this.#withoutIndex(folder);
		for (const part of ['cur', 'new'])
			for (const name of readdirSync(path.join(place, part))) rmSync(path.join(place, part, name));
		const list = path.join(place, 'dovecot-uidlist');
		const [header, ...lines] = readFileSync(list, 'utf8').trim().split('\n');
		const numbered = lines.map((line, at) => {
			const message = messages[at] ?? Buffer.alloc(0);
			const name = `${1_700_000_000 + at}.replaced,S=${message.length}`;
			const file = path.join(place, 'cur', `${name}:2,`);
			writeFileSync(file, message);
			chownSync(file, 5000, 5000);
			utimesSync(file, 1_700_000_000 + at, 1_700_000_000 + at);
			return `${line.split(' ')[0]} :${name}`;
		});
		writeFileSync(list, `${[header, ...numbered].join('\n')}\n`);
	}

	/** Gives all messages of a folder another date of coming in. */
	setDates(folder: string, date: Date): void {
		const place = this.#withoutIndex(folder);
		for (const part of ['cur', 'new'])
			for (const name of readdirSync(path.join(place, part))) utimesSync(path.join(place, part, name), date, date);
	}

	async stop(): Promise<void> {
		this.#socket.destroy();
		const ended = new Promise((resolve) => this.#process.once('exit', resolve));
		this.#process.kill('SIGTERM');
		await ended;
	}
}

/** A thread in an answer to THREAD: a number and its children; without a number, a placeholder. */
export interface AnsweredThread {
	number: number | undefined;
	children: AnsweredThread[];
}

/** Reads the answer to THREAD (RFC 5256 section 4). */
export function readThreadAnswer(answer: string): AnsweredThread[] {
	const text = /^\* THREAD (.*)\r$/m.exec(answer)?.[1] ?? '';
	let at = 0;
	function list(): AnsweredThread[] {
		const found: AnsweredThread[] = [];
		while (text[at] === '(') {
			at++;
			found.push(one());
			at++;
		}
		return found;
	}
	/* members: nested lists, or numbers each below the one before, the last perhaps with lists below it */
	function one(): AnsweredThread {
		if (text[at] === '(') return { number: undefined, children: list() };
		const digits = /^\d+/.exec(text.slice(at, at + 12))?.[0] ?? '';
		at += digits.length;
		const node: AnsweredThread = { number: Number(digits), children: [] };
		if (text[at] === ' ') {
			at++;
			node.children = text[at] === '(' ? list() : [one()];
		}
		return node;
	}
	return list();
}
