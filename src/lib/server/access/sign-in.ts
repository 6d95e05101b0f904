import type { Actor, Role } from '../../../core/access/roles.ts';
import {
	type Failures,
	FORGOTTEN_AFTER,
	isOver,
	LONGEST_SESSION,
	oneMore,
	waitSeconds
} from '../../../core/access/throttle.ts';
import { hashPassword, isPassword, wrongWithPassword } from './passwords.ts';
import { hashSecret, newToken, recoveryCodeKey, stepOfCode } from './secrets.ts';
import { type Db, getSetting, inTransaction } from '../database/index.ts';
import { Refusal } from '../refusal.ts';
import { appendLedger } from '../ledger/index.ts';
import {
	addPerson,
	failuresOf,
	forgetFailuresBefore,
	findEntryLink,
	findPerson,
	getPerson,
	hasPeople,
	type Person,
	personKey,
	putEntryLink,
	putFailures,
	putPerson,
	removeEntryLink,
	useRecoveryCode
} from './people-store.ts';
import {
	addSession,
	findSession,
	removeSession,
	removeSessions,
	removeSessionsUnseenSince,
	type Stage,
	touchSession
} from './sessions-store.ts';
import { type Context, defineUseCase, id, machineSeconds, text } from '../context/index.ts';
import Joi from 'joi';

/** The origin of a sign-in. */
export interface From {
	/** The browser's name for itself. */
	device: string;
	/**
	 * The token of a browser from which this person has signed in before; strangers' failures do not count against it.
	 */
	known?: string | undefined;
	/** The origin of the request. */
	address: string;
	/** The session that this browser has so far: it ends with a new one. */
	session?: string | undefined;
}

/** The result of a sign-in, perhaps only its first step. */
export interface SignedIn {
	/** For the cookie that identifies the person. */
	token: string;
	stage: Stage;
	/** For the cookie that identifies the browser. */
	known: string;
	actor: Actor;
}

/*
 * One sentence for all failures, so that it does not tell which part is wrong (OWASP ASVS 4.0.3, 3.2.3 of the cheat
 * sheet on authentication).
 */
const WRONG = 'The address or the password is not right. You are not signed in.';

const toActor = ({ id, name, role }: Pick<Person, 'id' | 'name' | 'role'>): Actor => ({ personId: id, name, role });

/* The token for a known browser, which only this data folder can make. */
async function markOf(db: Db, personId: number): Promise<string> {
	const secret = await getSetting(db, 'device-secret');
	return `${personId}.${hashSecret(`${secret}:${personId}`).toString('base64url')}`;
}

function needWait(seconds: number): Refusal {
	const words = seconds < 90 ? `${seconds} seconds` : `${Math.ceil(seconds / 60)} minutes`;
	return new Refusal(
		'too-many',
		`There were too many wrong attempts. Wait ${words} and try again; from a browser that you used here before, you need not wait for those of strangers.`
	);
}

/* Failures from one address count together for all accounts: others can still sign in from elsewhere. */
const ADDRESS_SHARE = 4;

async function requireNoWait(db: Db, keys: readonly string[], now: number): Promise<void> {
	for (const key of keys) {
		const failures = await failuresOf(db, key);
		const counted =
			failures && key.startsWith('from ')
				? { ...failures, failures: Math.floor(failures.failures / ADDRESS_SHARE) }
				: failures;
		const wait = waitSeconds(counted, now);
		if (wait > 0) throw needWait(wait);
	}
}

type Counted = [key: string, before: Failures | undefined][];

/*
 * Counts an attempt as a failure before its password is checked, which takes a while: of many at once, none passes the
 * wait.
 *    @returns the counts before, for uncounting one that was right
 *    @throws Refusal where one has to wait
 */
async function countAttempt(db: Db, keys: readonly string[], now: number): Promise<Counted> {
	return inTransaction(db, async (trx) => {
		await requireNoWait(trx, keys, now);
		await forgetFailuresBefore(trx, now - FORGOTTEN_AFTER);
		const counted: Counted = [];
		for (const key of keys) {
			const before = await failuresOf(trx, key);
			counted.push([key, before]);
			await putFailures(trx, key, oneMore(before, now));
		}
		return counted;
	});
}

/* Others may have failed meanwhile: one less than now, and not what was. */
async function uncountAttempt(db: Db, counted: Counted): Promise<void> {
	for (const [key, before] of counted) {
		const now = await failuresOf(db, key);
		const failures = (now?.failures ?? 1) - 1;
		await putFailures(
			db,
			key,
			failures > 0 ? { failures, lastAt: before?.lastAt ?? (now as Failures).lastAt } : undefined
		);
	}
}

/* The account that is tried, however it is named: by address or by name. */
const accountOf = (person: Person | undefined, named: string) => (person ? `#${person.id}` : personKey(named));

/**
 * Asks a signed-in person for their password before their sign-in settings change. Wrong ones make them wait, as at
 * signing in.
 *
 * @param person as stored
 * @throws Refusal
 */
export async function requireOwnPassword(context: Context, person: Person, password: string): Promise<void> {
	const { db } = context;
	const key = `password ${person.id}`;
	await countAttempt(db, [key], machineSeconds(context));
	if (await isPassword(person.password, password)) {
		await inTransaction(db, (trx) => putFailures(trx, key, undefined));
		return;
	}
	throw new Refusal('bad-input', 'That is not your password. Nothing was changed.');
}

/** Whether administrators have to use codes. */
export async function areCodesDemanded({ db }: Pick<Context, 'db'>): Promise<boolean> {
	return (await getSetting(db, 'administrators-use-codes')) === 'yes';
}

async function stageFor(db: Db, person: Person): Promise<Stage> {
	if (person.codeSecret !== null) return 'code';
	return person.role === 'administrator' && (await areCodesDemanded({ db })) ? 'code-wanted' : 'whole';
}

/* A new token at each step: one seen before signing in is invalid afterwards. */
async function enter(context: Context, db: Db, person: Person, stage: Stage, device: string): Promise<SignedIn> {
	const token = newToken();
	await removeSessionsUnseenSince(db, machineSeconds(context) - LONGEST_SESSION);
	await addSession(db, {
		hash: hashSecret(token),
		personId: person.id,
		stage,
		beganAt: machineSeconds(context),
		device: device.slice(0, 200)
	});
	if (stage !== 'code')
		await appendLedger(db, {
			at: context.now(),
			by: toActor(person),
			action: 'signed-in',
			details: { person: person.name }
		});
	return { token, stage, known: await markOf(db, person.id), actor: toActor(person) };
}

/* Signing in again in a browser ends the session that it had. */
async function endFormer(db: Db, { session: token }: From): Promise<void> {
	const former = token === undefined ? undefined : await findSession(db, hashSecret(token));
	if (former) await removeSession(db, former.personId, former.id);
}

/**
 * Signs a person in by address and password.
 *
 * @throws Refusal where they are not right, or have to wait
 */
export async function signIn(
	context: Context,
	input: { address: string; password: string; from: From }
): Promise<SignedIn> {
	const { db } = context;
	const now = machineSeconds(context);
	const person = await findPerson(db, input.address);
	const isKnown = person !== undefined && input.from.known === (await markOf(db, person.id));
	const keys = [
		`${isKnown ? 'known' : 'strange'} ${accountOf(person, input.address)}`,
		...(isKnown ? [] : [`from ${input.from.address}`])
	];
	const counted = await countAttempt(db, keys, now);
	const mayEnter = person !== undefined && person.endedAt === null;
	if (!(await isPassword(mayEnter ? person.password : null, input.password)) || !mayEnter)
		throw new Refusal('bad-input', WRONG);
	return inTransaction(db, async (trx) => {
		await uncountAttempt(trx, counted);
		await endFormer(trx, input.from);
		const stage = await stageFor(trx, person);
		// the failures stay until the code is given
		if (stage !== 'code') await putFailures(trx, keys[0] as string, undefined);
		return enter(context, trx, person, stage, input.from.device);
	});
}

/**
 * Checks the one-time or recovery code of a person who has given their password.
 *
 * @throws Refusal
 */
export async function enterCode(
	context: Context,
	input: { token: string; code: string; from: From }
): Promise<SignedIn> {
	const { db } = context;
	const now = machineSeconds(context);
	const session = await findSession(db, hashSecret(input.token));
	const person = session && (await getPerson(db, session.personId));
	if (!session || !person || session.stage !== 'code' || isOver(session, false, now))
		throw new Refusal('bad-input', 'That took too long. Sign in again.');
	const key = `code ${person.id}`;
	return inTransaction(db, async (trx) => {
		// as the code is, so that of many at once none passes the wait
		await requireNoWait(trx, [key], now);
		// read inside the transaction, so that of two sign-ins with one code only one succeeds
		const { codeSecret, codeStep } = (await getPerson(trx, person.id)) as Person;
		const step = stepOfCode(codeSecret ?? '', input.code, { now, after: codeStep });
		const byRecovery =
			step === undefined && (await useRecoveryCode(trx, person.id, hashSecret(recoveryCodeKey(input.code))));
		if (step === undefined && !byRecovery) {
			await putFailures(trx, key, oneMore(await failuresOf(trx, key), now));
			return undefined;
		}
		if (step !== undefined) await putPerson(trx, person.id, { codeStep: step });
		for (const forgotten of [key, `known ${accountOf(person, '')}`, `strange ${accountOf(person, '')}`])
			await putFailures(trx, forgotten, undefined);
		await removeSession(trx, person.id, session.id);
		return enter(context, trx, person, 'whole', input.from.device);
	}).then((entered) => {
		if (!entered) throw new Refusal('bad-input', 'That code is not right, or was used before. Wait for the next one.');
		return entered;
	});
}

/** The person of a session. */
export interface SessionPerson {
	actor: Actor;
	sessionId: number;
	stage: Stage;
	/** Whether the session's last use has to be noted. */
	isStale: boolean;
}

const NOTED_EVERY = 300;

/** The person with a token; undefined if it is unknown or the session has ended. */
export async function personOfToken(context: Context, input: { token: string }): Promise<SessionPerson | undefined> {
	const session = await findSession(context.db, hashSecret(input.token));
	const now = machineSeconds(context);
	if (!session || isOver(session, session.stage === 'whole', now)) return undefined;
	return {
		actor: toActor({ id: session.personId, name: session.name, role: session.role }),
		sessionId: session.id,
		stage: session.stage,
		isStale: now - session.seenAt > NOTED_EVERY
	};
}

/** Notes the use of a session, which keeps it from expiring. */
async function noteVisit(context: Context, input: { sessionId: number }): Promise<void> {
	await touchSession(context.db, input.sessionId, machineSeconds(context));
}

/** Ends the session of a token. */
async function signOut(context: Context, input: { token: string }): Promise<void> {
	const session = await findSession(context.db, hashSecret(input.token));
	if (session) await removeSession(context.db, session.personId, session.id);
}

/** Whether anybody can sign in. */
async function isFirstStart({ db }: Context): Promise<boolean> {
	return !(await hasPeople(db));
}

/** The accounts shown on a demo's sign-in page; empty elsewhere. */
async function demoAccounts({
	db
}: Context): Promise<{ name: string; address: string; role: Role; password: string }[]> {
	return JSON.parse((await getSetting(db, 'demo-accounts')) ?? '[]') as never;
}

const LINK_LASTS = 86_400;

/** Makes a link that lets somebody sign in once and set a password. @returns its token */
export async function makeLink(context: Context, db: Db, personId: number | null): Promise<string> {
	const token = newToken();
	await putEntryLink(db, { hash: hashSecret(token), personId, expiresAt: machineSeconds(context) + LINK_LASTS });
	return token;
}

/** Makes the link for the first administrator. @returns undefined if there are people already */
export async function linkForFirst(context: Context): Promise<string | undefined> {
	if (await hasPeople(context.db)) return undefined;
	return inTransaction(context.db, (db) => makeLink(context, db, null));
}

/**
 * The recipient of a link: a person, or the first administrator, who has still to give a name. @throws Refusal if the
 * link is invalid
 */
export async function readLink(
	context: Context,
	input: { token: string }
): Promise<{ person: { name: string; address: string } | undefined }> {
	const link = await findEntryLink(context.db, hashSecret(input.token), machineSeconds(context));
	const person = link?.personId ? await getPerson(context.db, link.personId) : undefined;
	if (!link || (link.personId === null && (await hasPeople(context.db))) || person?.endedAt)
		throw new Refusal(
			'not-found',
			'This link does not open: it was used already, or is more than a day old. An administrator can make a new one.'
		);
	return { person: person && { name: person.name, address: person.address } };
}

async function checkedPassword(password: string, about: readonly string[]): Promise<string> {
	const wrong = await wrongWithPassword(password, about);
	if (wrong) throw new Refusal('bad-input', `${wrong} Nothing was changed.`);
	return password;
}

/**
 * Signs in by a link: sets a password, and for the first administrator the name and address. All other sessions of
 * that person end.
 *
 * @throws Refusal
 */
export async function signInByLink(
	context: Context,
	input: { token: string; password: string; name?: string | undefined; address?: string | undefined; from: From }
): Promise<SignedIn> {
	const { person } = await readLink(context, input);
	const name = (person?.name ?? input.name ?? '').replace(/\s+/g, ' ').trim();
	const address = (person?.address ?? input.address ?? '').trim();
	if (name === '' || address === '') throw new Refusal('bad-input', 'Say your name and address. Nothing was changed.');
	const password = await hashPassword(await checkedPassword(input.password, [name, address]));
	return inTransaction(context.db, async (db) => {
		const hash = hashSecret(input.token);
		const link = await findEntryLink(db, hash, machineSeconds(context));
		if (!link) throw new Refusal('changed', 'This link was just used. Nothing was changed.');
		await removeEntryLink(db, hash);
		const id =
			link.personId ??
			(await addPerson(db, { name, address, role: 'administrator', madeAt: context.now().toISOString() }));
		const by = { personId: id, name };
		if (link.personId === null)
			await appendLedger(db, {
				at: context.now(),
				by,
				action: 'person-added',
				details: { person: name, address, role: 'administrator', first: true }
			});
		await putPerson(db, id, { password });
		await removeSessions(db, id);
		await appendLedger(db, { at: context.now(), by, action: 'password-set', details: { person: name } });
		const entered = (await getPerson(db, id)) as Person;
		await endFormer(db, input.from);
		return enter(context, db, entered, await stageFor(db, entered), input.from.device);
	});
}

/** Sets another password; the other sessions end. @throws Refusal */
export async function changePassword(
	context: Context,
	input: { before: string; password: string; sessionId: number }
): Promise<void> {
	const { db, actor } = context;
	const person = actor.personId === null ? undefined : await getPerson(db, actor.personId);
	if (!person) throw new Refusal('not-possible', 'Nobody is signed in. Nothing was changed.');
	await requireOwnPassword(context, person, input.before);
	const password = await hashPassword(await checkedPassword(input.password, [person.name, person.address]));
	await inTransaction(db, async (trx) => {
		await putPerson(trx, person.id, { password });
		await removeSessions(trx, person.id, input.sessionId);
		await appendLedger(trx, {
			at: context.now(),
			by: toActor(person),
			action: 'password-set',
			details: { person: person.name }
		});
	});
}

const fromSchema = Joi.object({ device: text.required(), known: text, address: text.required(), session: text });

/** The use cases of this file. */
export const signInUseCases = [
	defineUseCase({
		name: 'personOfToken',
		input: () => Joi.object({ token: text.required() }).required(),
		thread: 'reader',
		right: 'anybody',
		run: personOfToken
	}),
	defineUseCase({
		name: 'isFirstStart',
		thread: 'reader',
		right: 'anybody',
		run: isFirstStart
	}),
	defineUseCase({
		name: 'demoAccounts',
		thread: 'reader',
		right: 'anybody',
		run: demoAccounts
	}),
	defineUseCase({
		name: 'readLink',
		input: () => Joi.object({ token: text.required() }).required(),
		thread: 'reader',
		right: 'anybody',
		run: readLink
	}),
	defineUseCase({
		name: 'signIn',
		input: () =>
			Joi.object({
				address: text.required(),
				password: text.required(),
				from: fromSchema.required()
			}).required(),
		thread: 'writer',
		right: 'anybody',
		run: signIn
	}),
	defineUseCase({
		name: 'enterCode',
		input: () =>
			Joi.object({
				token: text.required(),
				code: text.required(),
				from: fromSchema.required()
			}).required(),
		thread: 'writer',
		right: 'anybody',
		run: enterCode
	}),
	defineUseCase({
		name: 'signOut',
		input: () => Joi.object({ token: text.required() }).required(),
		thread: 'writer',
		right: 'anybody',
		run: signOut
	}),
	defineUseCase({
		name: 'noteVisit',
		input: () => Joi.object({ sessionId: id.required() }).required(),
		thread: 'writer',
		right: 'person',
		run: noteVisit
	}),
	defineUseCase({
		name: 'linkForFirst',
		thread: 'writer',
		right: 'administrator',
		run: linkForFirst
	}),
	defineUseCase({
		name: 'signInByLink',
		input: () =>
			Joi.object({
				token: text.required(),
				password: text.required(),
				name: text,
				address: text,
				from: fromSchema.required()
			}).required(),
		thread: 'writer',
		right: 'anybody',
		run: signInByLink
	}),
	defineUseCase({
		name: 'changePassword',
		input: () =>
			Joi.object({ before: text.required(), password: text.required(), sessionId: id.required() }).required(),
		thread: 'writer',
		right: 'person',
		run: changePassword
	})
] as const;
