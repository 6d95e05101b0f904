import { type Handle, type HandleServerError, redirect, type RequestEvent, type ServerInit } from '@sveltejs/kit';
import { building } from '$app/environment';
import { allows } from './core/access/roles.ts';
import { refusalFor, routeRight } from '$lib/server/access/index.ts';
import { isLoopbackAddress, isLoopbackHost, isOwnRequest } from '$lib/server/web/loopback.ts';
import { personOfRequest } from '$lib/server/web/cookies.ts';
import { log } from '$lib/server/log.ts';
import { refusalIn } from '$lib/server/machine-trouble.ts';
import { closeOffice, runEveryNight, printFirstLink, theOffice } from '$lib/server/process/index.ts';
import { stopping } from '$lib/server/web/shutdown.ts';

/* The person who started it reads the reason, if it is meant for people. */
function cannotBegin(error: unknown): never {
	const refusal = refusalIn(error);
	if (!refusal) throw error;
	process.stderr.write(`Kovrel cannot begin. ${refusal.message}\n`);
	process.exit(1);
}

/* A port that is taken is told once this module has run: a sentence, no stack trace. */
function tellPortInUse(): void {
	process.on('uncaughtException', (error: NodeJS.ErrnoException) => {
		if (error.syscall === 'listen' && ['EADDRINUSE', 'EACCES', 'EADDRNOTAVAIL'].includes(error.code ?? ''))
			process.stderr.write(
				`Kovrel cannot begin. ${process.env.HOST ?? '0.0.0.0'}, port ${process.env.PORT ?? '3000'}, is ${error.code === 'EADDRINUSE' ? 'used by another program' : 'not open to this account'}: end it, or start with another PORT. Nothing was done.\n`
			);
		else log.fatal({ error }, 'the server ends, as something went wrong that it did not expect');
		process.exit(1);
	});
}

export const init: ServerInit = async () => {
	if (building) return;
	tellPortInUse();
	warnOfProxy();
	const office = await theOffice().catch(cannotBegin);
	// stopped while starting: there is no server to stop yet
	if (stopping.signal.aborted) {
		await closeOffice();
		process.exit();
	}
	if (office.canWrite) {
		await printFirstLink(office);
		runEveryNight(office, stopping.signal);
	}
	stopping.signal.addEventListener(
		'abort',
		() => void closeOffice().catch((error: unknown) => log.error({ error }, 'not everything could be closed')),
		{ once: true }
	);
};

/*
 * Passwords and mail are sent: unencrypted only to this machine itself. Behind a proxy with https the Host is that of
 * ORIGIN, or a loopback one that the proxy has put there.
 *    @returns what is wrong, as a sentence
 */
function wrongLine({ url, request, getClientAddress }: RequestEvent): string | undefined {
	const host = request.headers.get('host');
	let address: string;
	try {
		address = getClientAddress();
	} catch {
		return `The proxy in front of Kovrel does not send the header ${process.env.ADDRESS_HEADER ?? ''} that ADDRESS_HEADER names: set it there, or start Kovrel without it.`;
	}
	if (url.protocol === 'https:')
		return isLoopbackHost(host) || host?.toLowerCase() === url.host
			? undefined
			: `Kovrel is reached at ${url.origin}, as ORIGIN says, and not under another name.`;
	return isLoopbackHost(host) && isLoopbackAddress(address)
		? undefined
		: 'From other machines, Kovrel is reached over https only: put a proxy in front of it, and say its address in ORIGIN.';
}

/* Behind a proxy everybody has its address: attempts to guess a password could not be told apart. */
function warnOfProxy(): void {
	if (process.env.ORIGIN?.startsWith('https:') && !process.env.ADDRESS_HEADER)
		log.warn(
			'Behind a proxy, set ADDRESS_HEADER (such as x-forwarded-for): without it all people have the address of the proxy, and wrong passwords of one hold up all.'
		);
}

/* A page refuses with a page, a fetched address with a sentence. */
function no(status: number, sentence: string, headers: Record<string, string> = {}): Response {
	return new Response(sentence, { status, headers: { 'content-type': 'text/plain; charset=utf-8', ...headers } });
}

const NOTHING_LOADS = "default-src 'none'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'";

const isDocument = ({ request }: RequestEvent) =>
	request.method === 'GET' && (request.headers.get('accept') ?? '').includes('text/html');

/*
 * The one check for all requests: the person of the session, and whether the route is open to them. Use cases check
 * again (access/rights), and how far a colleague's grants reach (access/reach).
 */
async function letIn(event: RequestEvent): Promise<Response | undefined> {
	const { locals, route, url } = event;
	const right = routeRight(route.id ?? '/', event.request.method);
	const visitor = await personOfRequest(event);
	locals.visitor = visitor;
	// between the two sign-in steps: the code is missing, or not set up
	const isIn = visitor?.stage === 'whole' || (visitor?.stage === 'code-wanted' && route.id === '/account');
	if (visitor && isIn) locals.who = visitor.actor;
	if (right === 'anybody') return undefined;
	if (!visitor || !isIn) {
		if (!isDocument(event) && !event.isDataRequest) return no(401, 'Sign in first. Nothing was done.');
		const to =
			visitor?.stage === 'code-wanted'
				? '/account'
				: `/sign-in${url.pathname === '/' ? '' : `?to=${encodeURIComponent(url.pathname + url.search)}`}`;
		// a page's own script is told in its own form; a browser gets the answer with the headers of all others
		if (event.isDataRequest) redirect(303, to);
		return new Response(null, { status: 303, headers: { location: to } });
	}
	if (!allows(right, visitor.actor.role)) return no(403, refusalFor(visitor.actor.role));
	return undefined;
}

export const handle: Handle = async ({ event, resolve }) => {
	if (building) return resolve(event);
	const { headers, method } = event.request;
	const wrong = wrongLine(event);
	if (wrong) return no(421, wrong);
	if (method !== 'GET' && method !== 'HEAD' && !isOwnRequest(headers))
		return no(403, 'This request does not come from a page of Kovrel. Nothing was done.');
	// ending threads take no more work, and none are started again
	if (stopping.signal.aborted) return no(503, 'Kovrel is being stopped. Nothing was done.', { connection: 'close' });
	event.locals.office = await theOffice();
	const response = (await letIn(event)) ?? (await resolve(event));
	// pages have their own policy, with what they load; nothing else loads anything
	if (!response.headers.has('content-security-policy')) response.headers.set('content-security-policy', NOTHING_LOADS);
	response.headers.set('x-content-type-options', 'nosniff');
	response.headers.set('referrer-policy', 'same-origin');
	response.headers.set('cross-origin-opener-policy', 'same-origin');
	response.headers.set('cross-origin-resource-policy', 'same-origin');
	if (event.url.protocol === 'https:') response.headers.set('strict-transport-security', 'max-age=31536000');
	// pages are not cached: the next person at the machine may not see them
	if (!response.headers.has('cache-control')) response.headers.set('cache-control', 'no-store');
	return response;
};

export const handleError: HandleServerError = ({ error, event, status }) => {
	if (status === 404) return { message: 'There is no such page.' };
	log.error({ error, route: event.route.id }, 'a request failed');
	return {
		message:
			'Kovrel made a mistake here. Nothing that was acknowledged is lost. Reload the page; if it happens again, send the log to whoever looks after Kovrel.'
	};
};
