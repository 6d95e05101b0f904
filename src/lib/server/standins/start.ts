import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import type { AddressInfo, Server, Socket } from 'node:net';
import path from 'node:path';
import { generate } from 'selfsigned';
import type { StandIns } from '../outside/index.ts';
import { type ListManner, ListOperator, Subscriptions } from './list-operator.ts';
import { imapServer } from './imap/server.ts';
import { MailStore } from './imap/store.ts';
import { MailTaker } from './mail-taker.ts';
import { postOffice, type PostOfDay } from './post-office.ts';

/** The setup of the stand-ins. */
export interface World {
	/** The reaction of each list, by its identifier, which is also its host name. */
	manners: ReadonlyMap<string, ListManner>;
	/** The mail of a day, given who has unsubscribed from which list. */
	post(hasLeft: (listId: string, address: string) => boolean): PostOfDay;
	/** A mailbox that lives on the mail server; undefined: there is none. */
	live?: LiveMailbox;
}

/** A mailbox on the mail server of the stand-ins. */
interface LiveMailbox {
	user: string;
	password: string;
	/** What lies there at the beginning, and what comes on a day. */
	first: () => readonly ServerMail[];
	arrivals: (day: string) => readonly ServerMail[];
	/** How full it is at the beginning, as a share of its quota. */
	share: number;
}

/** A message for the mail server. */
interface ServerMail {
	folder: string;
	bytes: Buffer;
	flags: string[];
	/** Milliseconds since 1970. */
	date: number;
}

/** Running stand-ins. */
export interface RunningStandIns {
	where: StandIns;
	operator: ListOperator;
	subscriptions: Subscriptions;
	taker: MailTaker;
	/** The mail on the mail server. */
	mail: MailStore | undefined;
	close(): Promise<void>;
}

/* A certificate of the demo's own, for all its names; nobody else trusts it. */
async function certificate(folder: string, hosts: readonly string[]): Promise<{ key: string; cert: string }> {
	const file = path.join(folder, 'certificate.json');
	if (existsSync(file)) return JSON.parse(readFileSync(file, 'utf8')) as { key: string; cert: string };
	const made = await generate([{ name: 'commonName', value: 'stand-ins.example' }], {
		keySize: 2048,
		algorithm: 'sha256',
		notAfterDate: new Date(Date.now() + 3_650 * 86_400_000),
		extensions: [
			{ name: 'basicConstraints', cA: true },
			{ name: 'subjectAltName', altNames: hosts.map((value) => ({ type: 2, value })) }
		]
	});
	const pair = { key: made.private, cert: made.cert };
	writeFileSync(file, JSON.stringify(pair), { mode: 0o600 });
	return pair;
}

function listen(server: Server, port = 0): Promise<number> {
	return new Promise((resolve, reject) => {
		server.once('error', reject);
		server.listen(port, '127.0.0.1', () => resolve((server.address() as AddressInfo).port));
	});
}

function putMail(store: MailStore, mails: readonly ServerMail[]): void {
	const folders = new Map<string, ServerMail[]>();
	for (const mail of mails) folders.set(mail.folder, [...(folders.get(mail.folder) ?? []), mail]);
	for (const [folder, some] of folders) store.appendAll(folder, some);
}

/* Its quota is settled by what lies there at the beginning. */
function liveStore(folder: string, { first, share }: LiveMailbox): MailStore {
	const file = path.join(folder, 'quota.json');
	const mails = existsSync(file) ? undefined : first();
	if (mails) {
		mkdirSync(folder, { recursive: true });
		const bytes = mails.reduce((sum, mail) => sum + mail.bytes.length, 0);
		writeFileSync(file, JSON.stringify(Math.round(bytes / share)));
	}
	const store = new MailStore(path.join(folder, 'mail'), JSON.parse(readFileSync(file, 'utf8')) as number);
	if (mails) putMail(store, mails);
	return store;
}

/* The same port as the last time, where it is free: whoever connected the mailbox finds it again. */
async function listenAsBefore(folder: string, server: () => Server): Promise<{ port: number; server: Server }> {
	const file = path.join(folder, 'port.json');
	const before = existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as number) : 0;
	let made = server();
	const port = await listen(made, before).catch(() => {
		made = server();
		return listen(made);
	});
	writeFileSync(file, JSON.stringify(port));
	return { port, server: made };
}

/**
 * Starts the stand-ins on loopback.
 *
 * @param folder where they keep who has left what, and what was sent
 */
export async function startStandIns(folder: string, world: World): Promise<RunningStandIns> {
	mkdirSync(folder, { recursive: true });
	const subscriptions = new Subscriptions(path.join(folder, 'left.json'));
	const operator = new ListOperator(world.manners, subscriptions);
	const taker = new MailTaker(path.join(folder, 'outgoing'), ({ from, to }) => {
		for (const address of to) {
			const listId = /^leave@(.+)$/.exec(address)?.[1];
			if (listId !== undefined) operator.wish(listId, from);
		}
	});
	const tls = await certificate(folder, [...world.manners.keys()]);
	const lists = operator.server(tls);
	const mail = taker.server();
	const { live } = world;
	const liveFolder = path.join(folder, 'live');
	const liveMail = live && liveStore(liveFolder, live);
	const connections = new Set<Socket>();
	const imap =
		live &&
		liveMail &&
		(await listenAsBefore(liveFolder, () =>
			imapServer(liveMail, live).on('connection', (socket) => {
				connections.add(socket);
				socket.once('close', () => connections.delete(socket));
			})
		));
	const post = postOffice(
		folder,
		world.post((listId, address) => subscriptions.hasLeft(listId, address)),
		taker,
		(day) => live && liveMail && putMail(liveMail, live.arrivals(day))
	);
	const where: StandIns = {
		https: await listen(lists),
		smtp: await listen(mail.server),
		post: await listen(post),
		...(imap ? { imap: imap.port } : {}),
		ca: tls.cert,
		folder: path.resolve(folder)
	};
	return {
		where,
		operator,
		subscriptions,
		taker,
		mail: liveMail,
		async close() {
			for (const socket of connections) socket.destroy();
			imap?.server.close();
			lists.closeAllConnections();
			post.closeAllConnections();
			await Promise.all([
				new Promise((resolve) => lists.close(resolve)),
				new Promise((resolve) => post.close(resolve)),
				new Promise<void>((resolve) => mail.close(() => resolve()))
			]);
		}
	};
}
