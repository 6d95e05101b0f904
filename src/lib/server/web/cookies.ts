import type { RequestEvent } from '@sveltejs/kit';
import { KOVREL } from '../../../core/access/roles.ts';
import { log } from '../log.ts';
import type { SignedIn, From, SessionPerson } from '../access/sign-in.ts';

const SESSION = 'kovrel-session';
const KNOWN = 'kovrel-known';
const YEAR = 365 * 86_400;

/* OWASP ASVS 4.0.3, 3.4: hidden from scripts and other sites; over https only, if it is https. */
const flags = (event: RequestEvent) =>
	({ path: '/', httpOnly: true, sameSite: 'lax', secure: event.url.protocol === 'https:' }) as const;

/** The token sent by the browser. */
export function tokenOf(event: RequestEvent): string | undefined {
	return event.cookies.get(SESSION) || undefined;
}

/** The person of a request; also notes the session's use from time to time. */
export async function personOfRequest(event: RequestEvent): Promise<SessionPerson | undefined> {
	const token = tokenOf(event);
	if (token === undefined) return undefined;
	const { office } = event.locals;
	const visitor = await office.ask('personOfToken', { token }, KOVREL);
	if (visitor?.isStale)
		await office
			.change('noteVisit', { sessionId: visitor.sessionId }, KOVREL)
			// the page is shown even if the disk is full
			.catch((error: unknown) => log.error({ error }, 'a visit could not be noted'));
	return visitor;
}

/** The origin of a sign-in. */
export function fromOf(event: RequestEvent): From {
	return {
		device: event.request.headers.get('user-agent') ?? 'a browser',
		known: event.cookies.get(KNOWN),
		address: event.getClientAddress(),
		session: tokenOf(event)
	};
}

/** Stores a sign-in in the browser. */
export function storeSignIn(event: RequestEvent, { token, known, stage }: SignedIn): void {
	event.cookies.set(SESSION, token, flags(event));
	if (stage !== 'code') event.cookies.set(KNOWN, known, { ...flags(event), maxAge: YEAR });
}

/** Removes a sign-in from the browser. */
export function forgetSignIn(event: RequestEvent): void {
	if (tokenOf(event) !== undefined) event.cookies.delete(SESSION, { path: '/' });
}
