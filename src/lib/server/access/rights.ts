import { type Actor, allows, type Right, type Role } from '../../../core/access/roles.ts';
import { Refusal } from '../refusal.ts';
import type { StreamName, UseCaseName } from '../process/use-cases.ts';

/* The one place that says who may do what, for the three doors: use cases, pages, commands. What is not named here is an
   administrator's. How far a finder reaches is asked by the use case itself (access/reach). */
const USE_CASES: Partial<Record<UseCaseName | StreamName, Right>> = {
	// coming in
	signIn: 'anybody',
	enterCode: 'anybody',
	whoIs: 'anybody',
	signOut: 'anybody',
	isFirstStart: 'anybody',
	demoAccounts: 'anybody',
	readLink: 'anybody',
	comeIn: 'anybody',
	noteVisit: 'person',
	changePassword: 'person',
	myAccount: 'person',
	endSessions: 'person',
	offerCode: 'person',
	useCodes: 'person',
	dropCodes: 'person',
	// what every page shows
	officeToday: 'person',
	clockCanMove: 'person',
	// finding
	find: 'finder',
	narrow: 'finder',
	suggest: 'finder',
	myReach: 'finder',
	readMessage: 'finder',
	readHtml: 'finder',
	readAttachment: 'finder',
	readRaw: 'finder',
	readThread: 'finder',
	noteLook: 'finder',
	exportZip: 'finder',
	restore: 'finder',
	restoreFound: 'finder',
	haveInMyMailbox: 'finder',
	ownItems: 'finder',
	listSaved: 'finder',
	changeSaved: 'finder',
	makeRequest: 'finder',
	myRequests: 'finder',
	countAnswers: 'finder',
	noticeAnswers: 'finder',
	ownerView: 'finder',
	keepOwn: 'finder',
	readPolicy: 'person',
	// looking after those who look after the mail
	listWeights: 'oversight',
	compareMailboxes: 'oversight',
	countDueSoon: 'oversight',
	countHolds: 'oversight',
	isBackupWanted: 'oversight',
	backupStanding: 'oversight',
	freedSoFar: 'oversight',
	readLedger: 'oversight',
	listedCertificates: 'oversight',
	readCertificate: 'oversight',
	exportCertificate: 'oversight',
	listSchedule: 'oversight',
	financialYearMonth: 'oversight',
	showSeries: 'oversight',
	exportSchedule: 'oversight',
	listPeople: 'oversight',
	isApprovalDemanded: 'oversight'
};

/** Who may have a use case carried out. */
export function useCaseRight(name: UseCaseName | StreamName): Right {
	return USE_CASES[name] ?? 'administrator';
}

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

/** @throws Refusal where somebody may not have this carried out */
export function requireRight(actor: Actor, name: UseCaseName | StreamName): void {
	if (!allows(useCaseRight(name), actor.role)) throw new Refusal('forbidden', refusalFor(actor.role));
}
