/* Until people sign in, only this machine is served. A page elsewhere could still reach it through the person's browser:
   so the name it was asked under has to be loopback's (a name that somebody else's server resolves to 127.0.0.1 is not),
   and what changes something has to come from our own pages. */

const LOOPBACK = new Set(['127.0.0.1', 'localhost', '[::1]']);

/** Whether a Host header names this machine. */
export function isLoopbackHost(host: string | null): boolean {
	return LOOPBACK.has((host ?? '').replace(/:\d+$/, '').toLowerCase());
}

/** Whether a request comes from this machine, whatever it says it is called. */
export function isLoopbackAddress(address: string): boolean {
	return /^(::ffff:)?127\.\d{1,3}\.\d{1,3}\.\d{1,3}$/.test(address) || address === '::1';
}

/**
 * Whether a request may change something: it comes from a page of ours, or from no page at all.
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
