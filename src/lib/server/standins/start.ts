import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import type { AddressInfo, Server } from 'node:net';
import path from 'node:path';
import { generate } from 'selfsigned';
import type { StandIns } from '../outside/index.ts';
import { type ListManner, ListOperator, Subscriptions } from './list-operator.ts';
import { MailTaker } from './mail-taker.ts';
import { postOffice, type PostOfDay } from './post-office.ts';

/** The setup of the stand-ins. */
export interface World {
	/** The reaction of each list, by its identifier, which is also its host name. */
	manners: ReadonlyMap<string, ListManner>;
	/** The mail of a day, given who has unsubscribed from which list. */
	post(hasLeft: (listId: string, address: string) => boolean): PostOfDay;
}

/** Running stand-ins. */
export interface RunningStandIns {
	where: StandIns;
	operator: ListOperator;
	subscriptions: Subscriptions;
	taker: MailTaker;
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

function listen(server: Server): Promise<number> {
	return new Promise((resolve, reject) => {
		server.once('error', reject);
		server.listen(0, '127.0.0.1', () => resolve((server.address() as AddressInfo).port));
	});
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
	const post = postOffice(
		folder,
		world.post((listId, address) => subscriptions.hasLeft(listId, address)),
		taker
	);
	const where: StandIns = {
		https: await listen(lists),
		smtp: await listen(mail.server),
		post: await listen(post),
		ca: tls.cert,
		folder: path.resolve(folder)
	};
	return {
		where,
		operator,
		subscriptions,
		taker,
		async close() {
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
