import { connect, isIP, type Socket } from 'node:net';
import { connect as connectTls } from 'node:tls';
import {
	capabilitiesOf,
	NotSieveError,
	readAnswer,
	readChallenge,
	type SieveAnswer,
	sieveString
} from '../../../core/sources/managesieve.ts';
import { type Account, ServerTrouble } from './imap.ts';

const SILENCE_MS = 20_000;
const LARGEST_ANSWER = 4_000_000;

const oneLine = (text: string) => text.replaceAll(/\s+/g, ' ').trim().slice(0, 300);

/** A line to the ManageSieve server of an account (RFC 5804). */
export class SieveLine {
	#socket: Socket;
	readonly #account: Account;
	#received: Uint8Array = new Uint8Array(0);
	#wake: (() => void) | undefined;
	#failure: Error | undefined;

	private constructor(socket: Socket, account: Account) {
		this.#socket = socket;
		this.#account = account;
		this.#listen();
	}

	#listen(): void {
		const fail = (error: NodeJS.ErrnoException) => {
			this.#failure ??= error.code === 'ECONNREFUSED' ? new Error('nothing listens at its port') : error;
			this.#wake?.();
		};
		this.#socket.setTimeout(SILENCE_MS, () => fail(new Error('it did not answer in time')));
		this.#socket.on('error', fail);
		this.#socket.on('close', () => fail(new Error('it closed the line')));
		this.#socket.on('data', (bytes: Buffer) => {
			this.#received = Buffer.concat([this.#received, bytes]);
			if (this.#received.length > LARGEST_ANSWER) fail(new Error('its answer has no end'));
			this.#wake?.();
		});
	}

	#trouble(why: string, cause?: unknown): ServerTrouble {
		return new ServerTrouble(`The ManageSieve server of ${this.#account.host}: ${oneLine(why)}.`, { cause });
	}

	/* @param toChallenge what is said to the server where it asks something before it answers: once */
	async #answer(toChallenge?: string): Promise<SieveAnswer> {
		let reply = toChallenge;
		for (;;) {
			let answer: SieveAnswer | undefined;
			try {
				const challenge = reply === undefined ? undefined : readChallenge(this.#received);
				if (challenge !== undefined) {
					this.#received = this.#received.subarray(challenge);
					this.#socket.write(`${reply}\r\n`);
					reply = undefined;
				}
				answer = readAnswer(this.#received);
			} catch (error) {
				if (!(error instanceof NotSieveError)) throw error;
				throw this.#trouble('what listens there does not speak ManageSieve', error);
			}
			if (answer) {
				this.#received = this.#received.subarray(answer.length);
				return answer;
			}
			if (this.#failure) throw this.#trouble(this.#failure.message, this.#failure);
			await new Promise<void>((resolve) => (this.#wake = resolve));
			this.#wake = undefined;
		}
	}

	/** Sends a command. @throws ServerTrouble with the server's words where it says no */
	async command(words: string): Promise<SieveAnswer> {
		this.#socket.write(`${words}\r\n`);
		const answer = await this.#answer();
		if (answer.status !== 'OK') throw this.#trouble(answer.text || answer.code || 'it refused without a reason');
		return answer;
	}

	async #encrypt(): Promise<void> {
		await this.command('STARTTLS');
		const { host, certificate } = this.#account;
		const bare = this.#socket;
		bare.removeAllListeners();
		this.#received = new Uint8Array(0);
		this.#socket = connectTls({
			socket: bare,
			...(isIP(host) ? {} : { servername: host }),
			...(certificate === null ? {} : { ca: certificate })
		});
		this.#listen();
		// a server says again what it can do, now that nobody can have changed it on the way
		const again = await this.#answer();
		if (again.status !== 'OK') throw this.#trouble(again.text || 'it refused to be spoken to');
		this.#can = capabilitiesOf(again);
	}

	#can = new Map<string, string>();

	async #signIn(): Promise<void> {
		const { user, secret, auth } = this.#account;
		const ways = (this.#can.get('SASL') ?? '').toUpperCase().split(' ');
		const way = auth === 'password' ? 'PLAIN' : 'OAUTHBEARER';
		if (!ways.includes(way)) throw this.#trouble(`it does not take a ${auth} (SASL ${way})`);
		// RFC 4616, RFC 7628 section 3.1
		const said = way === 'PLAIN' ? `\0${user}\0${secret}` : `n,a=${user},\x01auth=Bearer ${secret}\x01\x01`;
		this.#socket.write(`AUTHENTICATE "${way}" ${sieveString(Buffer.from(said).toString('base64'))}\r\n`);
		// a server says why it refuses a token, and ends the matter once it was heard (RFC 7628 section 3.2.3)
		const answer = await this.#answer('"AQ=="');
		if (answer.status === 'OK') return;
		// a token is renewed where it is not accepted, as on the mail server
		const refused = Object.assign(new Error('not accepted'), { authenticationFailed: true });
		throw this.#trouble(
			`it does not accept this user and ${auth}: ${answer.text || answer.code || 'no reason'}`,
			refused
		);
	}

	/**
	 * Signs in, does something, and signs out. A password is said on an encrypted line only, but on this machine.
	 *
	 * @throws ServerTrouble with a sentence
	 */
	static async with<T>(account: Account, port: number, work: (line: SieveLine) => Promise<T>): Promise<T> {
		const line = new SieveLine(connect({ host: account.host, port }), account);
		try {
			const greeting = await line.#answer();
			if (greeting.status !== 'OK') throw line.#trouble(greeting.text || 'it refused to be spoken to');
			line.#can = capabilitiesOf(greeting);
			if (account.tls !== 'none') await line.#encrypt();
			await line.#signIn();
			const done = await work(line);
			line.#socket.write('LOGOUT\r\n');
			return done;
		} finally {
			line.#socket.removeAllListeners('close');
			line.#socket.destroy();
		}
	}
}
