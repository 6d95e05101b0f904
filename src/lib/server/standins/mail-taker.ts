import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { SMTPServer } from 'smtp-server';

/** A sent mail. */
export interface TakenMail {
	number: number;
	from: string;
	to: string[];
	bytes: Buffer;
}

const LARGEST = 10_000_000;

/** Accepts all outgoing mail and stores it in a folder; nothing is sent any further. */
export class MailTaker {
	#folder: string;
	#onMail: (mail: TakenMail) => void;

	constructor(folder: string, onMail: (mail: TakenMail) => void) {
		mkdirSync(folder, { recursive: true });
		this.#folder = folder;
		this.#onMail = onMail;
	}

	/** Numbers of the accepted mails, the newest first. */
	numbers(): number[] {
		return readdirSync(this.#folder)
			.map((name) => Number.parseInt(name, 10))
			.filter((number) => number > 0)
			.sort((a, b) => b - a);
	}

	/** The bytes of one of them. */
	read(number: number): Buffer | undefined {
		return this.numbers().includes(number) ? readFileSync(path.join(this.#folder, `${number}.eml`)) : undefined;
	}

	/** The server, before it listens. */
	server(): SMTPServer {
		const server = new SMTPServer({
			authOptional: true,
			disabledCommands: ['STARTTLS', 'AUTH'],
			size: LARGEST,
			logger: false,
			onData: (stream, session, done) => {
				const pieces: Buffer[] = [];
				stream.on('data', (piece: Buffer) => pieces.push(piece));
				stream.on('end', () => {
					const number = (this.numbers()[0] ?? 0) + 1;
					const bytes = Buffer.concat(pieces);
					writeFileSync(path.join(this.#folder, `${number}.eml`), bytes);
					const { mailFrom, rcptTo } = session.envelope;
					this.#onMail({
						number,
						from: mailFrom ? mailFrom.address.toLowerCase() : '',
						to: rcptTo.map(({ address }) => address.toLowerCase()),
						bytes
					});
					done();
				});
			}
		});
		// a broken connection ends alone, not the server
		server.on('error', () => {});
		return server;
	}
}
