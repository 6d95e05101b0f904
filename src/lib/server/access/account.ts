import { codeAddress, hashSecret, newCodeSecret, newRecoveryCode, recoveryCodeKey, stepOfCode } from './secrets.ts';
import { inTransaction } from '../database/index.ts';
import { Refusal } from '../refusal.ts';
import { appendLedger } from '../ledger/index.ts';
import {
	atOnceSetBy,
	countRecoveryCodes,
	getPerson,
	type Person,
	putAtOnce,
	putPerson,
	putRecoveryCodes
} from './people-store.ts';
import { AT_ONCE, MOST_AT_ONCE } from '../../../core/docket/decisions.ts';
import { showCount } from '../../../core/weigh/units.ts';
import { removeSession, removeSessions, type Session, sessionsOf } from './sessions-store.ts';
import { type Context, defineUseCase, id, machineSeconds, text } from '../context/index.ts';
import { areCodesDemanded, requireOwnPassword } from './sign-in.ts';
import Joi from 'joi';

/** Recovery codes made at a time. */
const CODES = 10;

async function requireSelf({ db, actor }: Context): Promise<Person> {
	const person = actor.personId === null ? undefined : await getPerson(db, actor.personId);
	if (!person) throw new Refusal('not-possible', 'Nobody is signed in. Nothing was changed.');
	return person;
}

/** A person's own sign-in settings. */
export interface Account {
	name: string;
	address: string;
	role: Person['role'];
	usesCodes: boolean;
	codesDemanded: boolean;
	recoveryCodesLeft: number;
	/** Up to this many messages, a reversible decision is carried out at once. */
	atOnce: number;
	sessions: Session[];
}

/** The account of the person who asks. @throws Refusal */
export async function myAccount(context: Context): Promise<Account> {
	const person = await requireSelf(context);
	return {
		name: person.name,
		address: person.address,
		role: person.role,
		usesCodes: person.codeSecret !== null,
		codesDemanded: person.role === 'administrator' && (await areCodesDemanded(context)),
		recoveryCodesLeft: await countRecoveryCodes(context.db, person.id),
		atOnce: await atOnceFor(context),
		sessions: await sessionsOf(context.db, person.id)
	};
}

/** Up to how many messages the decisions of the person who acts are carried out at once. */
export async function atOnceFor({ db, actor }: Pick<Context, 'db' | 'actor'>): Promise<number> {
	return (actor.personId === null ? undefined : await atOnceSetBy(db, actor.personId)) ?? AT_ONCE;
}

/** Sets up to how many messages one's own decisions are carried out at once; 0: none. @throws Refusal */
export async function setAtOnce(context: Context, input: { atOnce: number }): Promise<void> {
	const person = await requireSelf(context);
	if (!Number.isInteger(input.atOnce) || input.atOnce < 0 || input.atOnce > MOST_AT_ONCE)
		throw new Refusal(
			'bad-input',
			`The number is between 0 and ${showCount(MOST_AT_ONCE)}: more messages than that go on the docket first. Nothing was changed.`
		);
	await putAtOnce(context.db, person.id, input.atOnce);
}

/** Ends one of the person's sessions, or all but the present one. */
export async function endSessions(context: Context, input: { id: number } | { except: number }): Promise<void> {
	const person = await requireSelf(context);
	if ('id' in input) await removeSession(context.db, person.id, input.id);
	else await removeSessions(context.db, person.id, input.except);
}

/** A secret for an authenticator, not in use yet. */
export async function offerCode(context: Context): Promise<{ secret: string; address: string }> {
	const person = await requireSelf(context);
	const secret = newCodeSecret();
	return { secret, address: codeAddress(secret, person.address) };
}

/**
 * Turns one-time codes on, once a code proves that the authenticator has the secret.
 *
 * @param input.password required if codes are in use: a stolen session must not replace them
 * @returns recovery codes, shown this once
 * @throws Refusal
 */
export async function useCodes(
	context: Context,
	input: { secret: string; code: string; password?: string | undefined }
): Promise<string[]> {
	const person = await requireSelf(context);
	if (person.codeSecret !== null) await requireOwnPassword(context, person, input.password ?? '');
	if (!/^[A-Z2-7]{32}$/.test(input.secret)) throw new Refusal('bad-input', 'That is no secret. Nothing was changed.');
	const step = stepOfCode(input.secret, input.code, { now: machineSeconds(context), after: 0 });
	if (step === undefined)
		throw new Refusal('bad-input', 'That is not the code that the authenticator shows now. Nothing was changed.');
	const codes = Array.from({ length: CODES }, newRecoveryCode);
	await inTransaction(context.db, async (db) => {
		await putPerson(db, person.id, { codeSecret: input.secret, codeStep: step });
		await putRecoveryCodes(
			db,
			person.id,
			codes.map((code) => hashSecret(recoveryCodeKey(code)))
		);
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'code-set',
			details: { person: person.name }
		});
	});
	return codes;
}

/** Turns one-time codes off. @throws Refusal if they are required, or the password is wrong */
export async function removeCodes(context: Context, input: { password: string }): Promise<void> {
	const person = await requireSelf(context);
	if (person.role === 'administrator' && (await areCodesDemanded(context)))
		throw new Refusal('not-possible', 'Administrators have to use one-time codes here. Nothing was changed.');
	await requireOwnPassword(context, person, input.password);
	await inTransaction(context.db, async (db) => {
		await putPerson(db, person.id, { codeSecret: null });
		await putRecoveryCodes(db, person.id, []);
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'code-dropped',
			details: { person: person.name }
		});
	});
}

/** The use cases of this file. */
export const accountUseCases = [
	defineUseCase({
		name: 'myAccount',
		thread: 'reader',
		right: 'person',
		run: myAccount
	}),
	defineUseCase({
		name: 'offerCode',
		thread: 'reader',
		right: 'person',
		run: offerCode
	}),
	defineUseCase({
		name: 'setAtOnce',
		input: () => Joi.object({ atOnce: Joi.number().required() }).required(),
		thread: 'writer',
		right: 'person',
		run: setAtOnce
	}),
	defineUseCase({
		name: 'endSessions',
		input: () =>
			Joi.alternatives(Joi.object({ id: id.required() }), Joi.object({ except: Joi.number().required() })).required(),
		thread: 'writer',
		right: 'person',
		run: endSessions
	}),
	defineUseCase({
		name: 'useCodes',
		input: () => Joi.object({ secret: text.required(), code: text.required(), password: text }).required(),
		thread: 'writer',
		right: 'person',
		run: useCodes
	}),
	defineUseCase({
		name: 'removeCodes',
		input: () => Joi.object({ password: text.required() }).required(),
		thread: 'writer',
		right: 'person',
		run: removeCodes
	})
] as const;
