import { createServer, type Server } from 'node:https';
import { type AddressInfo, createServer as createSilent } from 'node:net';
import { afterAll, beforeAll, describe, expect, it, onTestFinished, vi } from 'vitest';
import { certificateFor } from '../testing/certificate.ts';
import { isPublicAddress } from './addresses.ts';
import { ONE_CLICK_BODY, openOutside } from './outside.ts';

describe('the public network (IANA registries of special-purpose addresses, RFC 6890)', () => {
	it.each([
		['9.9.9.9', true],
		['172.15.255.255', true],
		['172.32.0.1', true],
		['2606:4700:4700::1111', true],
		['2a00:1450::1', true],
		['127.0.0.1', false],
		['127.255.255.254', false],
		['0.0.0.0', false],
		['10.1.2.3', false],
		['100.64.0.1', false],
		['169.254.169.254', false],
		['172.16.0.1', false],
		['172.31.255.255', false],
		['192.168.1.1', false],
		['192.0.2.1', false],
		['198.18.0.1', false],
		['203.0.113.7', false],
		['224.0.0.1', false],
		['255.255.255.255', false],
		['::', false],
		['::1', false],
		['::ffff:127.0.0.1', false],
		['::ffff:8.8.8.8', false],
		['64:ff9b::7f00:1', false],
		['2002:7f00:1::', false],
		['2001:db8::1', false],
		['fc00::1', false],
		['fd12:3456::1', false],
		['fe80::1', false],
		['fe80::1%eth0', false],
		['ff02::1', false],
		['localhost', false],
		['', false]
	])('%s: %s', (address, expected) => {
		expect(isPublicAddress(address)).toBe(expected);
	});
});

describe('a one-click request', () => {
	let server: Server;
	let port: number;
	let ca: string;
	const heard: { method: string; url: string; body: string; headers: Record<string, unknown> }[] = [];
	beforeAll(async () => {
		const made = await certificateFor('lists.example');
		ca = made.cert;
		server = createServer(made, (request, response) => {
			let body = '';
			request.on('data', (bytes: Buffer) => (body += bytes.toString()));
			request.on('end', () => {
				heard.push({ method: request.method ?? '', url: request.url ?? '', body, headers: request.headers });
				if (request.url === '/hangs') return;
				if (request.url === '/redirects') response.writeHead(302, { location: 'https://lists.example/next' });
				else if (request.url === '/fails') response.writeHead(500);
				else response.writeHead(200, { 'set-cookie': 'a=b' });
				response.end(request.url === '/endless' ? 'x'.repeat(5_000_000) : 'Done.');
			});
		});
		await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
		({ port } = server.address() as AddressInfo);
	});
	afterAll(() => {
		server.closeAllConnections();
		server.close();
	});
	const outside = (timeLimit = 15_000) =>
		openOutside({ standIns: { https: port, smtp: 1, post: 1, ca, folder: '/nowhere' }, timeLimit });

	it.each([
		['/u?a=1', true, 'answered 200'],
		['/endless', true, 'answered 200'],
		['/redirects', false, 'a redirect, which is not followed'],
		['/fails', false, 'answered 500']
	])('%s: %s', async (path, ok, said) => {
		heard.length = 0;
		const answer = await outside().oneClick(`https://lists.example${path}`);
		expect(answer).toEqual({ heard: ok, said: expect.stringContaining(said) as string });
		// RFC 8058 section 3.1: a POST with exactly this body, no cookies, and no redirects followed
		expect(heard).toMatchObject([{ method: 'POST', url: path, body: 'List-Unsubscribe=One-Click' }]);
		expect(ONE_CLICK_BODY).toBe('List-Unsubscribe=One-Click');
		expect(heard[0]?.headers).toMatchObject({
			'content-type': 'application/x-www-form-urlencoded',
			host: 'lists.example'
		});
		expect(heard[0]?.headers).not.toHaveProperty('cookie');
	});

	it('gives up after its time', async () => {
		expect(await outside(300).oneClick('https://lists.example/hangs')).toMatchObject({
			heard: false,
			said: expect.stringContaining('did not answer') as string
		});
	});

	it('is sent only to who has the certificate of that name', async () => {
		heard.length = 0;
		expect(await outside().oneClick('https://other.example/u')).toMatchObject({ heard: false });
		expect(heard).toEqual([]);
	});

	it.each([
		['https://list.test/u', ['10.0.0.1']],
		['https://list.test/u', ['9.9.9.9', '127.0.0.1']],
		['https://list.test/u', ['::ffff:127.0.0.1']],
		['https://list.test/u', []],
		['https://127.0.0.1/u', ['9.9.9.9']],
		['https://[::1]/u', ['9.9.9.9']],
		['https://2130706433/u', ['9.9.9.9']],
		['https://0x7f.1/u', ['9.9.9.9']],
		['http://list.test/u', ['9.9.9.9']]
	])('%s, which leads to %j, is not asked', async (url, addresses) => {
		heard.length = 0;
		const asked: string[] = [];
		const real = openOutside({
			standIns: undefined,
			smtp: undefined,
			timeLimit: 500,
			resolve: async (host) => {
				asked.push(host);
				return addresses;
			}
		});
		const { heard: ok, said } = await real.oneClick(url);
		expect(ok).toBe(false);
		expect(said).toMatch(/not of the public network|not known|not https/);
		// resolved once: the checked address is the one that is connected to
		expect(asked.length).toBeLessThanOrEqual(1);
		expect(heard).toEqual([]);
	});
});

describe('the stand-ins named in the environment', () => {
	it.each([
		['no file', '/nowhere/standins.json'],
		['a file of something else', new URL(import.meta.url).pathname]
	])('%s: said in a sentence', (_what, file) => {
		vi.stubEnv('KOVREL_STANDINS', file);
		onTestFinished(() => void vi.unstubAllEnvs());
		expect(() => openOutside()).toThrow(/KOVREL_STANDINS names .*, which is not the stand-ins' file of a demo/);
	});
});

describe('a mail server that says nothing', () => {
	it('is given up after the time limit, and nothing is said to have gone', async () => {
		const server = createSilent((socket) => socket.on('error', () => undefined));
		await new Promise<void>((listening) => server.listen(0, '127.0.0.1', listening));
		const { port } = server.address() as AddressInfo;
		const outside = openOutside({ standIns: undefined, smtp: `smtp://127.0.0.1:${port}`, timeLimit: 300 });
		const answer = await outside.send({ from: 'a@b.example', to: 'c@d.example', subject: 'Ramp', text: 'Stiff.' });
		expect(answer).toEqual({ heard: false, said: expect.stringContaining('could not be sent') as string });
		server.close();
	});
});
