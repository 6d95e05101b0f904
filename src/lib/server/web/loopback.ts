/*
 * Until there are people, only this machine is served. Pages of other sites could still reach it through the person's
 * browser: so the Host has to be a loopback name (a foreign name that resolves to 127.0.0.1 is not), and changes have
 * to come from our own pages.
 */

const LOOPBACK = new Set(['127.0.0.1', 'localhost', '[::1]']);

/** Whether a Host header names this machine. */
export function isLoopbackHost(host: string | null): boolean {
	return LOOPBACK.has((host ?? '').replace(/:\d+$/, '').toLowerCase());
}

/** Whether a request comes from this machine, whatever host it names. */
export function isLoopbackAddress(address: string): boolean {
	return /^(::ffff:)?127\.\d{1,3}\.\d{1,3}\.\d{1,3}$/.test(address) || address === '::1';
}

/**
 * Whether a request may make changes: it comes from one of our pages, or from no page.
 *
 * @see Fetch Metadata Request Headers (W3C): Sec-Fetch-Site
 */
export function isOwnRequest(headers: Headers): boolean {
	const site = headers.get('sec-fetch-site');
	if (site !== null) return site === 'same-origin' || site === 'none';
	const origin = headers.get('origin');
	if (origin === null) return true;
	try {
		return new URL(origin).host === headers.get('host');
	} catch {
		return false;
	}
}
