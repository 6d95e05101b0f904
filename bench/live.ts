// A live mailbox on an IMAP server (dovecot, on loopback), against the bare commands by the same library.
import { chmodSync, mkdirSync, rmSync } from 'node:fs';
import path from 'node:path';
import { ImapFlow } from 'imapflow';
import { ORIGIN_FIELDS } from '../src/core/message/summary.ts';
import { showCount } from '../src/core/weigh/units.ts';
import type { Context } from '../src/lib/server/context/index.ts';
import { decideArchiving } from '../src/lib/server/archive/index.ts';
import { carryOut } from '../src/lib/server/docket/index.ts';
import { listSource, readSource } from '../src/lib/server/intake/index.ts';
import { allowWriting, connectSource, followSources, listSources } from '../src/lib/server/sources/index.ts';
import { hasImapServer, ImapServer } from '../src/lib/server/testing/imap-server.ts';
import type { Bench } from './clear.ts';
import { writeMbox } from './mail.ts';
import { best, each, ratio, table } from './measure.ts';

const FOLDERS = 100;
const MAILBOX = 'Live';

async function* messagesOf(mbox: string): AsyncGenerator<Buffer> {
	for await (const pieces of readSource(await listSource(mbox)))
		for (const { bytes } of pieces)
			yield Buffer.from(Buffer.from(bytes).toString('latin1').replaceAll(/\r?\n/g, '\r\n'), 'latin1');
}

async function bare<T>(port: number, work: (client: ImapFlow) => Promise<T>): Promise<T> {
	const client = new ImapFlow({
		...{
			host: '127.0.0.1',
			port,
			secure: false,
			doSTARTTLS: false,
			logger: false,
			disableAutoIdle: true,
			disableBinary: true
		},
		auth: { user: 'tester', pass: 'secret' }
	});
	await client.connect();
	try {
		return await work(client);
	} finally {
		await client.logout();
	}
}

async function fetchAll(client: ImapFlow, fields: Record<string, unknown>): Promise<number> {
	let messages = 0;
	for (let n = 0; n < FOLDERS; n++) {
		await client.mailboxOpen(`Files/F${n}`, { readOnly: true });
		for await (const message of client.fetch('1:*', { uid: true, flags: true, internalDate: true, ...fields })) {
			if (message.uid) messages++;
		}
	}
	return messages;
}

const millisecondsOf = async (work: () => unknown) => (await each([work]))[0] ?? 0;

/* The time until all headers are here; the pass is stopped then. */
async function headersAlone(context: Context, messages: number): Promise<number> {
	const stop = new AbortController();
	const began = performance.now();
	let taken = 0;
	await followSources(
		{
			...context,
			signal: stop.signal,
			report: ({ note = '' }) => {
				if (!note.startsWith(`${showCount(messages)} of `) || taken > 0) return;
				taken = performance.now() - began;
				stop.abort();
			}
		},
		{ mailbox: MAILBOX }
	);
	return taken;
}

async function following(bench: Bench): Promise<string> {
	if (!hasImapServer()) return '## A live mailbox\n\nNot measured: dovecot-imapd is not here.';
	const messages = bench.full ? 50_000 : 10_000;
	const archived = messages / 5;
	const mbox = path.join(bench.root, 'live.mbox');
	await writeMbox(mbox, messages);
	const place = path.join(bench.root, 'imap');
	mkdirSync(place);
	// the server works under an account of its own
	chmodSync(bench.root, 0o755);
	bench.say(`a mail server with ${showCount(messages)} messages in ${FOLDERS} folders`);
	const imap = await ImapServer.start(place);
	const context = await bench.open('live');
	try {
		let at = 0;
		for (let n = 0; n < FOLDERS; n++) await imap.command(`CREATE Files/F${n}`);
		let batch: Buffer[] = [];
		for await (const message of messagesOf(mbox)) {
			batch.push(message);
			if (batch.length < messages / FOLDERS) continue;
			await imap.append(`Files/F${at++}`, batch);
			batch = [];
		}
		rmSync(mbox);
		const whole = () => bare(imap.port, (client) => fetchAll(client, { source: true }));
		bench.say('bare fetches');
		const bareHeaders = await best(3, () =>
			bare(imap.port, (client) => fetchAll(client, { size: true, headers: [...ORIGIN_FIELDS] }))
		);
		const bareBodies = await best(2, whole);
		const server = { host: '127.0.0.1', port: imap.port, tls: 'none' as const, user: 'tester', secret: 'secret' };
		await connectSource(context, { mailbox: MAILBOX, ...server });
		bench.say('a first pass');
		const headers = await headersAlone(context, messages);
		const bodies = await millisecondsOf(() => followSources(context, { mailbox: MAILBOX }));
		const [followed] = await listSources(context);
		if (followed?.messages !== messages) throw new Error(`${followed?.messages} of ${messages} messages are here`);
		bench.say('passes without news');
		const bareStatus = await best(4, () =>
			bare(imap.port, async (client) => {
				for (let n = 0; n < FOLDERS; n++)
					await client.status(`Files/F${n}`, { messages: true, uidNext: true, highestModseq: true });
			})
		);
		const nothing = await best(4, () => followSources(context, { mailbox: MAILBOX }));
		bench.say('archiving');
		// what has to be done in any case, on other messages of the same kind
		const bareRemoval = await millisecondsOf(() =>
			bare(imap.port, async (client) => {
				for (let n = 0; n < FOLDERS / 5; n++) {
					await client.mailboxOpen(`Files/F${FOLDERS - 1 - n}`);
					for await (const message of client.fetch('1:*', { uid: true, source: true })) void message;
					await client.messageDelete('1:*');
				}
			})
		);
		await followSources(context, { mailbox: MAILBOX });
		await allowWriting(context, { mailbox: MAILBOX, writes: true });
		await followSources(context, { mailbox: MAILBOX });
		const folders = Array.from({ length: FOLDERS / 5 }, (_, n) => `Files/F${n}`);
		const dockets: number[] = [];
		for (const folder of folders)
			dockets.push((await decideArchiving(context, { mailbox: MAILBOX, before: '2100-01-01', folder })).id);
		const archiving = await millisecondsOf(async () => {
			await carryOut(context, { id: dockets[0] ?? 0 });
			await followSources(context, { mailbox: MAILBOX });
		});
		const [after] = await listSources(context);
		return [
			'## A live mailbox',
			table(
				[
					`${showCount(messages)} messages in ${FOLDERS} folders, dovecot-imapd on loopback`,
					'bare, ms',
					'Kovrel, ms',
					'times'
				],
				[
					['first pass: headers, flags and sizes, weighed', bareHeaders, headers],
					['its bytes: read, stored, indexed', bareBodies, bodies],
					['a pass without news (bare: STATUS of each folder)', bareStatus, nothing],
					[`archiving ${showCount(archived)} (bare: fetch and remove)`, bareRemoval, archiving]
				].map(([what, one, other]) => [
					String(what),
					Number(one).toFixed(0),
					Number(other).toFixed(0),
					ratio(Number(other), Number(one))
				])
			),
			`${showCount(after?.messages ?? 0)} messages are followed afterwards, ${showCount(after?.waiting ?? 0)} wait for the server.`
		].join('\n\n');
	} finally {
		await context.db.destroy();
		await imap.stop();
		rmSync(context.dataFolder, { recursive: true });
	}
}

/** The parts of it. */
export const liveParts: Record<string, (bench: Bench) => Promise<string>> = { live: following };
