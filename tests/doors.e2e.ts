import { once } from 'node:events';
import { readdirSync, readFileSync, rmSync } from 'node:fs';
import { connect } from 'node:net';
import path from 'node:path';
import { expect } from '@playwright/test';
import { kovrel, letter, mboxFile, temporaryFolder, test, TestServer } from './server.ts';

/* Every route, as every role and as nobody: who comes in is compared with a table that is written here by hand. */

let server: TestServer;
const sessions: Record<string, string | undefined> = { nobody: undefined };

test.beforeAll(async () => {
	const mail = temporaryFolder();
	mboxFile(mail, [letter('Ramp', 'Mon, 2 Mar 2020 10:00:00 +0000')]);
	server = await TestServer.start();
	expect(kovrel(server.data, 'import', path.join(mail, 'mail.mbox'), '--mailbox', 'Office').status).toBe(0);
	rmSync(mail, { recursive: true });
	sessions.administrator = server.session;
	sessions.auditor = await server.addPerson('Agnes Quill', 'auditor');
	sessions.colleague = await server.addPerson('Jonas Berg', 'colleague');
});
test.afterAll(() => server.remove());

const ALL = 'administrator auditor colleague nobody';
const SIGNED_IN = 'administrator auditor colleague';
const FINDERS = 'administrator colleague';
const OVERSIGHT = 'administrator auditor';
const ADMINISTRATOR = 'administrator';

/* By the folder of the route. */
const TABLE: Record<string, string> = {
	'/': SIGNED_IN,
	'/account': SIGNED_IN,
	'/come-in/[token]': ALL,
	'/days': ADMINISTRATOR,
	'/begin': ADMINISTRATOR,
	'/clear': ADMINISTRATOR,
	'/desk': ADMINISTRATOR,
	'/dockets/[id=number]': ADMINISTRATOR,
	'/dockets/[id=number]/lines/[line=number]': ADMINISTRATOR,
	'/export': FINDERS,
	'/find': FINDERS,
	'/find/help': FINDERS,
	'/find/requests': FINDERS,
	'/find/suggest': FINDERS,
	'/items/[id=number]': FINDERS,
	'/items/[id=number]/acted': ADMINISTRATOR,
	'/items/[id=number]/attachments/[index=number]': FINDERS,
	'/items/[id=number]/html': FINDERS,
	'/items/[id=number]/mark': ADMINISTRATOR,
	'/items/[id=number]/raw': FINDERS,
	'/items/[id=number]/thread': FINDERS,
	'/jobs': ADMINISTRATOR,
	'/jobs/[id=number]': ADMINISTRATOR,
	'/jobs/events': ADMINISTRATOR,
	'/ledger': OVERSIGHT,
	'/lists': ADMINISTRATOR,
	'/lists/part': ADMINISTRATOR,
	'/lots': ADMINISTRATOR,
	'/lots/open': ADMINISTRATOR,
	'/lots/part': ADMINISTRATOR,
	'/m/[mailbox=number]/archive': ADMINISTRATOR,
	'/m/[mailbox=number]/clear': ADMINISTRATOR,
	'/m/[mailbox=number]/clear/bin': ADMINISTRATOR,
	'/m/[mailbox=number]/clear/folders': ADMINISTRATOR,
	'/m/[mailbox=number]/clear/keep-list': ADMINISTRATOR,
	'/m/[mailbox=number]/clear/lots': ADMINISTRATOR,
	'/m/[mailbox=number]/clear/lots/open': ADMINISTRATOR,
	'/m/[mailbox=number]/clear/lots/part': ADMINISTRATOR,
	'/m/[mailbox=number]/clear/proposals': ADMINISTRATOR,
	'/m/[mailbox=number]/clear/tags': ADMINISTRATOR,
	'/m/[mailbox=number]/desk': ADMINISTRATOR,
	'/m/[mailbox=number]/desk/awaited': ADMINISTRATOR,
	'/m/[mailbox=number]/desk/beside': ADMINISTRATOR,
	'/m/[mailbox=number]/desk/outgoing': ADMINISTRATOR,
	'/m/[mailbox=number]/desk/piles': ADMINISTRATOR,
	'/m/[mailbox=number]/desk/rules': ADMINISTRATOR,
	'/m/[mailbox=number]/desk/rules/new': ADMINISTRATOR,
	'/m/[mailbox=number]/desk/rules/sieve': ADMINISTRATOR,
	'/m/[mailbox=number]/desk/write': ADMINISTRATOR,
	'/m/[mailbox=number]/folders/[folder=number]': ADMINISTRATOR,
	'/m/[mailbox=number]/lists': ADMINISTRATOR,
	'/m/[mailbox=number]/lists/[list=number]': ADMINISTRATOR,
	'/m/[mailbox=number]/lists/[list=number]/details': ADMINISTRATOR,
	'/m/[mailbox=number]/lists/digest': ADMINISTRATOR,
	'/m/[mailbox=number]/lists/part': ADMINISTRATOR,
	'/m/[mailbox=number]/lists/senders': ADMINISTRATOR,
	'/m/[mailbox=number]/lists/since': ADMINISTRATOR,
	'/m/[mailbox=number]/weigh': ADMINISTRATOR,
	'/mailboxes': ADMINISTRATOR,
	'/mailboxes/live': ADMINISTRATOR,
	'/oddities/[id=number]': ADMINISTRATOR,
	'/own': FINDERS,
	'/own/items': FINDERS,
	'/own/mail': FINDERS,
	'/own/policy': FINDERS,
	'/own/weight': FINDERS,
	'/people': OVERSIGHT,
	'/people/requests': ADMINISTRATOR,
	'/retain': ADMINISTRATOR,
	'/retain/certificates': OVERSIGHT,
	'/retain/certificates/[docket=number]': OVERSIGHT,
	'/retain/certificates/[docket=number]/[format=certificate]': OVERSIGHT,
	'/retain/due': ADMINISTRATOR,
	'/retain/folders': ADMINISTRATOR,
	'/retain/holds': ADMINISTRATOR,
	'/retain/policy': OVERSIGHT,
	'/retain/reviews': ADMINISTRATOR,
	'/retain/reviews/[review=number]': ADMINISTRATOR,
	'/retain/run': ADMINISTRATOR,
	'/retain/schedule': OVERSIGHT,
	'/retain/schedule/csv': OVERSIGHT,
	'/sign-in': ALL,
	'/sign-in/code': ALL,
	'/sign-out': ALL,
	'/uploads': ADMINISTRATOR,
	'/uploads/[id]': ADMINISTRATOR,
	'/uploads/[id]/[index=number]': ADMINISTRATOR,
	'/weigh': OVERSIGHT
};

/* Who only looks on changes nothing. */
const allowedFor = ({ route, method }: Door) =>
	method !== 'GET' && TABLE[route] === OVERSIGHT ? ADMINISTRATOR : (TABLE[route] ?? '');

interface Door {
	route: string;
	method: string;
	/** Of a page. */
	action?: string;
}

const ROUTES = path.resolve('src', 'routes');

/* What a file of SvelteKit's routes answers to. */
function doorsOf(route: string, file: string): Door[] {
	const source = readFileSync(file, 'utf8');
	if (path.basename(file) === '+server.ts')
		return [...source.matchAll(/export const (GET|POST|PUT|PATCH|DELETE)\b/g)].map(([, method = '']) => ({
			route,
			method
		}));
	if (path.basename(file) !== '+page.server.ts') return [];
	const actions = /export const actions[^=]*= \{([\s\S]*)\n\};/.exec(source)?.[1] ?? '';
	return [...actions.matchAll(/^\t(\w+):/gm)].map(([, action = '']) => ({ route, method: 'POST', action }));
}

const doors: Door[] = readdirSync(ROUTES, { recursive: true, withFileTypes: true })
	.filter((entry) => entry.isFile())
	.flatMap(({ parentPath, name }) => {
		// a group of routes in parentheses is no part of the address
		const route = `/${path.relative(ROUTES, parentPath).split(path.sep).join('/')}`.replace(/\/\(\w+\)/, '');
		return name === '+page.svelte' ? [{ route, method: 'GET' }] : doorsOf(route, path.join(parentPath, name));
	});

const addressOf = (route: string) =>
	route
		.replace('[token]', 'no-such-link')
		.replace('[format=certificate]', 'csv')
		.replace(/\[[a-z]+\]/g, 'none')
		.replace(/\[[a-z]+=number\]/g, '1');

async function knock({ route, method, action }: Door, session: string | undefined): Promise<'in' | 'no' | 'sign in'> {
	const stop = new AbortController();
	const answer = await fetch(`${server.url}${addressOf(route)}${action && action !== 'default' ? `?/${action}` : ''}`, {
		method,
		redirect: 'manual',
		signal: stop.signal,
		headers: {
			accept: method === 'GET' ? 'text/html' : 'application/json',
			origin: server.url,
			...(session ? { cookie: `kovrel-session=${session}` } : {})
		},
		// the form of a page; what is in it is for none of them
		...(action ? { body: new URLSearchParams({ nothing: '1' }) } : {})
	});
	const location = answer.headers.get('location') ?? '';
	const isRefused = answer.status === 403;
	// the stream of events would go on
	stop.abort();
	if (isRefused) return 'no';
	return answer.status === 401 ||
		(answer.status === 303 && location.startsWith('/sign-in') && !route.startsWith('/sign'))
		? 'sign in'
		: 'in';
}

test('every route is in the table, and the table has no other', () => {
	expect([...new Set(doors.map(({ route }) => route))].sort()).toEqual(Object.keys(TABLE).sort());
	expect(doors.length).toBeGreaterThan(140);
});

for (const who of ['administrator', 'auditor', 'colleague', 'nobody'])
	test(`${who}: each route answers as the table says`, async () => {
		const answers: Record<string, string> = {};
		const expected: Record<string, string> = {};
		for (const door of doors) {
			// would end the session that the others are asked with
			if (door.route === '/sign-out' || (door.route === '/account' && door.action === 'end')) continue;
			const name = `${door.method} ${door.route}${door.action ? ` ${door.action}` : ''}`;
			const allowed = allowedFor(door).split(' ');
			expected[name] = allowed.includes(who) ? 'in' : who === 'nobody' ? 'sign in' : 'no';
			answers[name] = await knock(door, sessions[who]);
		}
		expect(answers).toEqual(expected);
	});

/* A request of which the last line is held back, as on a slow line, until it is sent. */
async function heldBack(url: string): Promise<{ send: () => void; answer: Promise<string> }> {
	const { hostname, port, host } = new URL(url);
	const socket = connect(Number(port), hostname);
	let text = '';
	socket.setEncoding('utf8').on('data', (piece: string) => (text += piece));
	socket.write(`GET / HTTP/1.1\r\nHost: ${host}\r\n`);
	await once(socket, 'connect');
	return { send: () => socket.write('\r\n'), answer: once(socket, 'close').then(() => text) };
}

test('a request that comes in while the server ends is refused, and holds up nothing', async () => {
	const ending = await TestServer.start();
	const request = await heldBack(ending.url);
	const ended = ending.remove();
	const answers = () =>
		fetch(ending.url).then(
			() => true,
			() => false
		);
	while (await answers());
	request.send();
	expect(await request.answer).toMatch(/^HTTP\/1\.1 503 .*Kovrel is being stopped\. Nothing was done\./s);
	// one that had to be cut off is an error
	await ended;
});

test('a stream of events ends when the role of whoever hears it does', async () => {
	const session = await server.addPerson('Ruben Holm', 'administrator');
	const stop = new AbortController();
	const stream = await fetch(`${server.url}/jobs/events`, {
		headers: { cookie: `kovrel-session=${session}` },
		signal: stop.signal
	});
	expect(stream.status).toBe(200);
	let heard = '';
	const ended = (async () => {
		const decoder = new TextDecoder();
		for await (const bytes of stream.body as unknown as AsyncIterable<Uint8Array>) heard += decoder.decode(bytes);
	})();
	const verify = (as: string | undefined) =>
		fetch(`${server.url}/ledger?/verify`, {
			method: 'POST',
			headers: { cookie: `kovrel-session=${as}`, origin: server.url, 'x-sveltekit-action': 'true' },
			body: new URLSearchParams({ a: '' })
		});
	await verify(sessions.administrator);
	await expect.poll(() => heard).toContain('event: job');
	expect(kovrel(server.data, 'person', 'set', 'Ruben Holm', '--role', 'colleague').status).toBe(0);
	const before = heard.length;
	// whatever happens next is not told any more: the stream ends instead
	await expect(async () => {
		await verify(sessions.administrator);
		await Promise.race([
			ended,
			new Promise((_resolve, reject) => setTimeout(() => reject(new Error('still open')), 1_200))
		]);
	}).toPass();
	expect(heard.slice(before)).not.toContain('"who":"Ruben');
	stop.abort();
});

test('a megabyte of nested elements is imported and opened, and holds up nobody', async () => {
	const mail = temporaryFolder();
	const nested = 95_000;
	const html = `${'<div>'.repeat(nested)}zanderfish${'</div>'.repeat(nested)}`;
	mboxFile(mail, [
		letter('Nested', 'Mon, 2 Mar 2020 10:00:00 +0000', html).replace('\n\n', '\nContent-Type: text/html\n\n')
	]);
	const file = path.join(mail, 'mail.mbox');
	expect(kovrel(server.data, 'import', file, '--mailbox', 'Office').status).toBe(0);
	rmSync(mail, { recursive: true });
	const found = kovrel(server.data, 'search', 'zanderfish', '--json');
	const { hits } = JSON.parse(found.stdout) as { hits: { id: number }[] };
	const headers = { cookie: `kovrel-session=${sessions.administrator}` };
	// a connection that was kept may have been closed by the server meanwhile
	const get = (address: string) => {
		const ask = () => fetch(server.url + address, { headers });
		return ask().catch(ask);
	};
	const opened = Array.from({ length: 8 }, () => get(`/items/${hits[0]?.id}/html`));
	const pages = Array.from({ length: 8 }, () => get('/ledger'));
	for (const answer of await Promise.all([...opened, ...pages])) expect(answer.status).toBe(200);
	expect(await (await (opened[0] as Promise<Response>)).text()).toContain('zanderfish');
});
