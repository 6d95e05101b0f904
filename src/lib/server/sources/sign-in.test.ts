import { createHmac } from 'node:crypto';
import { createServer, type IncomingMessage } from 'node:http';
import { type AddressInfo, connect } from 'node:net';
import { createServer as createTlsServer } from 'node:tls';
import { afterAll, describe, expect, it, onTestFinished } from 'vitest';
import { scriptsOf } from '../../../core/sources/managesieve.ts';
import type { Context } from '../context/context.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { certificateFor } from '../testing/certificate.ts';
import { letter, openOffice, temporaryFolder } from '../testing/office.ts';
import { hasImapServer, hasSieveServer, ImapServer } from '../testing/imap-server.ts';
import { connectSource, testServer, withSieveServer } from './connect.ts';
import { followSources } from './follow.ts';
import { requireSource } from './require-source.ts';
import { readSecret, type Renewal, wrongRenewal } from './tokens.ts';

afterAll(closeParsePool);

const MAILBOX = 'Office';

async function started(wish: Parameters<typeof ImapServer.start>[2]): Promise<{ context: Context; imap: ImapServer }> {
	const imap = await ImapServer.start(temporaryFolder(), onTestFinished, wish);
	const mail = Buffer.from(letter('Ramp', 'Mon, 2 Mar 2026 10:00:00 +0000').replaceAll('\n', '\r\n'));
	await imap.append('INBOX', [mail]);
	return { context: await openOffice(), imap };
}

const pass = async (context: Context) => (await followSources(context, { mailbox: MAILBOX })).passes[0];

/* Debian's dovecot-imapd on loopback. */
describe.skipIf(!hasImapServer())('a server with encryption', () => {
	/* TLS from the first byte, in front of a server without it. */
	async function inFrontOf(port: number, made: { cert: string; key: string }): Promise<number> {
		const proxy = createTlsServer(made, (client) => {
			const target = connect(port, '127.0.0.1');
			client.pipe(target).pipe(client);
			for (const socket of [client, target]) socket.on('error', () => socket.destroy());
		});
		onTestFinished(() => void proxy.close());
		await new Promise<void>((listening) => proxy.listen(0, '127.0.0.1', listening));
		return (proxy.address() as AddressInfo).port;
	}

	it.each([
		['implicit', 'localhost', true, /^tester is signed in on localhost, encrypted\.$/],
		['implicit', 'localhost', false, /certificate of localhost is not trusted .* give it as the certificate of this/],
		['implicit', 'mail.skerryline.example', true, /not trusted \(ERR_TLS_CERT_ALTNAME_INVALID\)/],
		['starttls', 'localhost', true, /^tester is signed in on localhost, encrypted\.$/],
		['starttls', 'localhost', false, /certificate of localhost is not trusted .* give it as the certificate of this/],
		['starttls', 'mail.skerryline.example', true, /not trusted \(ERR_TLS_CERT_ALTNAME_INVALID\)/]
	] as const)(
		'is reached by %s TLS with a certificate for %s that is given: %s',
		async (tls, name, isGiven, expected) => {
			const made = await certificateFor(name);
			const { context, imap } = await started(tls === 'starttls' ? { tls: made } : {});
			const port = tls === 'starttls' ? imap.port : await inFrontOf(imap.port, made);
			const account = { host: 'localhost', port, tls, user: 'tester', secret: 'secret' };
			const said = await connectSource(context, {
				mailbox: MAILBOX,
				...account,
				...(isGiven ? { certificate: made.cert } : {})
			}).then(
				({ sentences }) => sentences[0] ?? '',
				(error: unknown) => (error as Error).message
			);
			expect(said).toMatch(expected);
			if (isGiven && name === 'localhost') expect(await pass(context)).toMatchObject({ new: 1, errors: [] });
		}
	);

	it('is sent no password where it offers no STARTTLS', async () => {
		const { context, imap } = await started({});
		const account = { host: 'localhost', port: imap.port, tls: 'starttls' as const, user: 'tester', secret: 'secret' };
		await expect(connectSource(context, { mailbox: MAILBOX, ...account })).rejects.toThrow(/STARTTLS|encryption/);
	});
});

/*
 * RFC 7628 (OAUTHBEARER) against dovecot, which checks the signature and the end of each token (RFC 7519) itself; the
 * token endpoint gives a new refresh token with each token, and ends the former one (RFC 6749 sections 5.1, 5.2 and 6).
 */
describe.skipIf(!hasImapServer())('a bearer token', () => {
	const tokenKey = Buffer.from('of the tests alone, 32 bytes long');

	const encoded = (part: unknown) => Buffer.from(JSON.stringify(part)).toString('base64url');
	function tokenFor(user: string, seconds: number): string {
		const now = Math.floor(Date.now() / 1000);
		const text = `${encoded({ alg: 'HS256', typ: 'JWT' })}.${encoded({ sub: user, iat: now - 600, exp: now + seconds })}`;
		return `${text}.${createHmac('sha256', tokenKey).update(text).digest('base64url')}`;
	}

	/* What the endpoint gives next: how long a token is good, and how long it says so. */
	interface Endpoint {
		asked: number;
		refreshToken: string;
		good: number;
		says: number | undefined;
		url: string;
	}

	async function endpoint(): Promise<Endpoint> {
		const it: Endpoint = { asked: 0, refreshToken: 'first', good: 3600, says: 3600, url: '' };
		const bodyOf = async (request: IncomingMessage) => {
			let text = '';
			for await (const part of request) text += String(part);
			return Object.fromEntries(new URLSearchParams(text));
		};
		const server = createServer((request, response) => {
			void bodyOf(request).then((form) => {
				it.asked++;
				const isRight =
					form.grant_type === 'refresh_token' &&
					form.refresh_token === it.refreshToken &&
					form.client_id === 'kovrel' &&
					form.client_secret === 'of the client';
				response.writeHead(isRight ? 200 : 400, { 'content-type': 'application/json' });
				if (!isRight) return response.end('{"error":"invalid_grant"}');
				it.refreshToken = `number ${it.asked}`;
				return response.end(
					JSON.stringify({
						access_token: tokenFor('tester', it.good),
						token_type: 'Bearer',
						expires_in: it.says,
						refresh_token: it.refreshToken
					})
				);
			});
		});
		onTestFinished(() => void server.close());
		await new Promise<void>((listening) => server.listen(0, '127.0.0.1', listening));
		it.url = `http://127.0.0.1:${(server.address() as AddressInfo).port}/token`;
		return it;
	}

	const renewalAt = (url: string): Renewal => ({
		endpoint: url,
		refreshToken: 'first',
		clientId: 'kovrel',
		clientSecret: 'of the client'
	});
	const account = ({ port }: ImapServer) =>
		({ mailbox: MAILBOX, host: '127.0.0.1', port, tls: 'none', user: 'tester', auth: 'token' }) as const;

	it('signs in while it is good, and is said to have ended without what renews it', async () => {
		const { context, imap } = await started({ tokenKey });
		await connectSource(context, { ...account(imap), secret: tokenFor('tester', 3600) });
		expect(await pass(context)).toMatchObject({ new: 1, errors: [] });
		await expect(connectSource(context, { ...account(imap), secret: tokenFor('tester', -60) })).rejects.toThrow(
			/does not accept this user and token/
		);
		await expect(connectSource(context, { ...account(imap), secret: '' })).rejects.toThrow('Give the token');
	});

	it('is got from the endpoint, before it ends and where the server refuses it, each time with the newest', async () => {
		const { context, imap } = await started({ tokenKey });
		const tokens = await endpoint();
		const renewal = renewalAt(tokens.url);
		await expect(testServer(context, { ...account(imap), secret: '', renewal })).rejects.toThrow(
			'give a token as well'
		);
		expect(tokens.asked).toBe(0);
		await connectSource(context, { ...account(imap), secret: '', renewal });
		expect(tokens.asked).toBe(1);
		expect(await pass(context)).toMatchObject({ new: 1, errors: [] });
		expect(tokens.asked).toBe(1);
		// its end has come by Kovrel's clock
		const later = { ...context, machineNow: () => new Date(context.machineNow().getTime() + 3_590_000) };
		tokens.good = -60;
		expect(await pass(later)).toMatchObject({ errors: [expect.stringContaining('user and token')] });
		expect(tokens.asked).toBe(2);
		// its end has come by the server's clock alone
		tokens.good = 3600;
		expect(await pass(later)).toMatchObject({ folders: 1, errors: [] });
		expect(tokens.asked).toBe(3);
		expect(await pass(later)).toMatchObject({ errors: [] });
		expect(tokens.asked).toBe(3);
	});

	it.skipIf(!hasSieveServer())(
		'signs in on the ManageSieve server beside it (RFC 5804), renewed where that refuses it',
		async () => {
			const { context, imap } = await started({ tokenKey, sieve: true });
			const tokens = await endpoint();
			await connectSource(context, { ...account(imap), secret: '', renewal: renewalAt(tokens.url) });
			const scripts = async (at: Context) => {
				const { source } = await requireSource(at, MAILBOX);
				return withSieveServer(at, source, imap.sievePort, async (line) =>
					scriptsOf(await line.command('LISTSCRIPTS'))
				);
			};
			expect(await scripts(context)).toEqual([]);
			expect(tokens.asked).toBe(1);
			// its end has come by Kovrel's clock, and the next one has ended by the server's
			const later = { ...context, machineNow: () => new Date(context.machineNow().getTime() + 3_590_000) };
			tokens.good = -60;
			await expect(scripts(later)).rejects.toThrow(
				'ManageSieve server of 127.0.0.1: it does not accept this user and token'
			);
			expect(tokens.asked).toBe(2);
			tokens.good = 3600;
			expect(await scripts(later)).toEqual([]);
			expect(tokens.asked).toBe(3);
		}
	);

	it('stays as it was where the endpoint refuses, and says what to do', async () => {
		const { context, imap } = await started({ tokenKey });
		const tokens = await endpoint();
		await connectSource(context, { ...account(imap), secret: '', renewal: renewalAt(tokens.url) });
		tokens.refreshToken = 'taken away';
		const later = { ...context, machineNow: () => new Date(context.machineNow().getTime() + 7_200_000) };
		expect(await pass(later)).toMatchObject({
			errors: [expect.stringMatching(/gives no token: it answered 400 .*invalid_grant.* Connect the mailbox again/)]
		});
		await expect(
			connectSource(context, { ...account(imap), secret: '', renewal: renewalAt('http://127.0.0.1:1/') })
		).rejects.toThrow(/cannot be reached \(ECONNREFUSED\)\. Nothing was changed/);
	});
});

describe('a renewal', () => {
	const right: Renewal = { endpoint: 'https://sign-in.skerryline.example/token', refreshToken: 'r', clientId: 'c' };
	it.each([
		[{}, undefined],
		[{ endpoint: 'http://127.0.0.1:8080/token' }, undefined],
		[{ endpoint: 'http://sign-in.skerryline.example/token' }, /begins with https/],
		[{ endpoint: 'file:///etc/passwd' }, /begins with https/],
		[{ endpoint: 'token' }, /begins with https/],
		[{ refreshToken: '' }, /refresh token/],
		[{ clientId: '' }, /client ID/]
	])('with %j is right or said to be wrong', (given, expected) => {
		const wrong = wrongRenewal({ ...right, ...given });
		if (expected) expect(wrong).toMatch(expected);
		else expect(wrong).toBeUndefined();
	});

	it('is read from what is stored; a password with braces is one', () => {
		expect(readSecret('password', '{"secret":"x"}')).toEqual({ secret: '{"secret":"x"}' });
		expect(readSecret('token', 'abc.def')).toEqual({ secret: 'abc.def' });
	});
});
