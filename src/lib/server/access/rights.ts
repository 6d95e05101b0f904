import { type Actor, allows, type Right, type Role } from '../../../core/access/roles.ts';
import { Refusal } from '../refusal.ts';

/* Who may have pages and commands; of use cases, their own definitions say it. How far a finder reaches is asked by the use case
   itself (access/reach). */

/* By the beginning of a route's id; the longest that fits. */
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

/** Who may have a page, by the id of its route; who only looks on changes nothing. */
export function routeRight(id: string, method: string): Right {
	const fitting = Object.keys(ROUTES).filter((route) => id === route || (route !== '/' && id.startsWith(`${route}/`)));
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

/** Who may give a command, by its words. */
export function commandRight(words: string): Right {
	return COMMANDS[words] ?? 'administrator';
}

const ROLE_WORDS: Record<Role, string> = {
	administrator: 'an administrator',
	auditor: 'an auditor',
	colleague: 'a colleague'
};

/** What somebody is told who may not. */
export function refusalFor(role: Role): string {
	return `That is not for ${ROLE_WORDS[role]}. Nothing was done.`;
}

/** @throws Refusal where somebody may not have something of this right carried out */
export function requireRight(actor: Actor, right: Right): void {
	if (!allows(right, actor.role)) throw new Refusal('forbidden', refusalFor(actor.role));
}
