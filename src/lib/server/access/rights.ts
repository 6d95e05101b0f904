import { type Actor, allows, type Right, type Role } from '../../../core/access/roles.ts';
import { Refusal } from '../refusal.ts';

/*
 * Rights to pages and commands; use cases define their own. A use case checks a colleague's reach itself
 * (access/reach).
 */

/* By the beginning of a route's id; the longest match counts. */
const ROUTES: Record<string, Right> = {
	'/': 'person',
	'/sign-in': 'anybody',
	'/come-in': 'anybody',
	'/sign-out': 'anybody',
	'/account': 'person',
	'/find': 'finder',
	'/own': 'finder',
	'/items': 'finder',
	'/items/[id=number]/mark': 'administrator',
	'/export': 'finder',
	'/ledger': 'oversight',
	'/weigh': 'oversight',
	'/people': 'oversight',
	'/people/requests': 'administrator',
	'/retain/schedule': 'oversight',
	'/retain/policy': 'oversight',
	'/retain/certificates': 'oversight'
};

/** Who may open a page, by the id of its route; people who may only read change nothing. */
export function routeRight(id: string, method: string): Right {
	// a group of routes is no part of the address
	const page = id.replace(/\/\(\w+\)/g, '');
	const fitting = Object.keys(ROUTES).filter(
		(route) => page === route || (route !== '/' && page.startsWith(`${route}/`))
	);
	const longest = fitting.sort((a, b) => b.length - a.length)[0];
	const right = longest === undefined ? 'administrator' : (ROUTES[longest] as Right);
	return right === 'oversight' && method !== 'GET' && method !== 'HEAD' ? 'administrator' : right;
}

const COMMANDS: Record<string, Right> = {
	search: 'finder',
	restore: 'finder',
	export: 'administrator',
	certificate: 'oversight',
	'schedule show': 'oversight',
	'schedule export': 'oversight',
	'person list': 'oversight'
};

/** Who may run a command, by its name. */
export function commandRight(words: string): Right {
	return COMMANDS[words] ?? 'administrator';
}

const ROLE_WORDS: Record<Role, string> = {
	administrator: 'an administrator',
	auditor: 'an auditor',
	colleague: 'a colleague'
};

/** The answer to somebody without the right. */
export function refusalFor(role: Role): string {
	return `That is not for ${ROLE_WORDS[role]}. Nothing was done.`;
}

/** @throws Refusal if somebody lacks this right */
export function requireRight(actor: Actor, right: Right): void {
	if (!allows(right, actor.role)) throw new Refusal('forbidden', refusalFor(actor.role));
}
