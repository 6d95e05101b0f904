import { type Handle, type HandleServerError, type ServerInit } from '@sveltejs/kit';
import { building } from '$app/environment';
import { isLoopbackAddress, isLoopbackHost, isOwnRequest } from '$lib/server/access/loopback.ts';
import { log } from '$lib/server/log.ts';
import { closeOffice, theOffice } from '$lib/server/office.ts';
import { runEveryNight } from '$lib/server/nightly.ts';
import { stopping } from '$lib/server/shutdown.ts';
import { personInEnvironment } from '$lib/server/work/open-context.ts';

export const init: ServerInit = async () => {
	if (building) return;
	runEveryNight(await theOffice(), stopping.signal);
	stopping.signal.addEventListener('abort', () => void closeOffice(), { once: true });
};

export const handle: Handle = async ({ event, resolve }) => {
	if (building) return resolve(event);
	const { headers, method } = event.request;
	if (!isLoopbackHost(headers.get('host')) || !isLoopbackAddress(event.getClientAddress()))
		return new Response('Kovrel listens on this machine only, until people sign in.', { status: 421 });
	if (method !== 'GET' && method !== 'HEAD' && !isOwnRequest(headers))
		return new Response('This request does not come from a page of Kovrel. Nothing was done.', { status: 403 });
	event.locals.office = await theOffice();
	event.locals.who = personInEnvironment();
	const response = await resolve(event);
	response.headers.set('x-content-type-options', 'nosniff');
	response.headers.set('referrer-policy', 'same-origin');
	response.headers.set('cross-origin-opener-policy', 'same-origin');
	return response;
};

export const handleError: HandleServerError = ({ error, event, status }) => {
	if (status === 404) return { message: 'There is no such page.' };
	log.error({ err: error, route: event.route.id }, 'a request failed');
	return {
		message: 'Something went wrong that nobody foresaw. What was acknowledged is kept; the log has the details.'
	};
};
