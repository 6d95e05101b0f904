import { createHash } from 'node:crypto';
import Joi from 'joi';
import { scriptsOf, SIEVE_PORT, sieveString } from '../../../core/sources/managesieve.ts';
import { showCount } from '../../../core/weigh/units.ts';
import { type Context, defineUseCase, id, mailboxRef } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import { appendLedger } from '../ledger/index.ts';
import type { MailboxRef } from '../mail/index.ts';
import { Refusal } from '../refusal.ts';
import {
	sourceOf,
	placesOnServer,
	putScriptSays,
	requireSource,
	ServerTrouble,
	type SieveLine,
	withSieveServer
} from '../sources/index.ts';
import { listRules } from './rules.ts';
import { exportSieve } from './sieve.ts';

/* The name of the script there: others of the account are never written over. */
const SCRIPT = 'Kovrel';

/** What was put on a mail server. */
export interface PutScript {
	mailbox: string;
	host: string;
	written: number[];
	left: { rule: number; name: string; why: string }[];
	isActive: boolean;
	/** In words: what was done, and what was not. */
	sentences: string[];
}

/* Takes our script off a server where nothing is left for it; those of others stay. */
async function removeScript(line: SieveLine): Promise<undefined> {
	const ours = scriptsOf(await line.command('LISTSCRIPTS')).find(({ name }) => name === SCRIPT);
	if (ours?.isActive) await line.command('SETACTIVE ""');
	if (ours) await line.command(`DELETESCRIPT "${SCRIPT}"`);
	return undefined;
}

/* @returns the name of the script that is active afterwards */
async function putScript(line: SieveLine, script: string, replaces: boolean): Promise<string> {
	const before = scriptsOf(await line.command('LISTSCRIPTS')).find(({ isActive }) => isActive)?.name;
	// refused as a whole where it is wrong: the former one stays (RFC 5804 section 2.6)
	await line.command(`PUTSCRIPT "${SCRIPT}" ${sieveString(script.replaceAll(/\r?\n/g, '\r\n'))}`);
	if (before !== undefined && before !== SCRIPT && !replaces) return before;
	if (before !== SCRIPT) await line.command(`SETACTIVE "${SCRIPT}"`);
	return SCRIPT;
}

/**
 * Puts the standing decisions of a live mailbox on its server as a Sieve script (ManageSieve, RFC 5804), so that they act
 * at delivery; where there are none for it, takes the former script off. The server checks the script first; another
 * active script stays unless it is to be replaced. Nothing is destroyed at delivery: deleted mail goes to the server's bin.
 *
 * @param input.replaces whether ours becomes active in place of another one, which stays stored there
 * @throws Refusal
 */
export async function putScriptOnServer(
	context: Context,
	input: { mailbox: MailboxRef; port?: number | undefined; replaces?: boolean | undefined }
): Promise<PutScript> {
	const { mailbox, source } = await requireSource(context, input.mailbox);
	if (source.writes === 0)
		throw new Refusal(
			'not-possible',
			`Kovrel only reads ${source.host}. Allow it to write there first. Nothing was done.`
		);
	try {
		const places = await placesOnServer(context, source);
		const { script, written, left } = await exportSieve(context, { mailbox: mailbox.id }, places);
		const active = await withSieveServer(context, source, input.port ?? SIEVE_PORT, async (line) =>
			written.length > 0 ? putScript(line, script, input.replaces === true) : removeScript(line)
		);
		const isActive = active === SCRIPT;
		await inTransaction(context.db, async (db) => {
			const says = written.length > 0 ? await decisionsHash({ ...context, db }, mailbox.id, source.archiveOn) : null;
			await putScriptSays(db, source.id, says);
			await appendLedger(db, {
				at: context.now(),
				by: context.actor,
				action: 'rules-put',
				details: { mailbox: mailbox.name, host: source.host, rules: written, active: isActive }
			});
		});
		const isOne = written.length === 1;
		const decisions = `${showCount(written.length)} standing ${isOne ? 'decision' : 'decisions'}`;
		return {
			...{ mailbox: mailbox.name, host: source.host, written, left, isActive },
			sentences: [
				written.length === 0
					? `Kovrel has no script on ${source.host} any more: no standing decision is left that a mail server could carry out.`
					: isActive
						? `${decisions} ${isOne ? 'acts' : 'act'} on ${source.host} from now on, when mail is delivered.`
						: `${decisions} ${isOne ? 'is' : 'are'} stored on ${source.host}, and ${isOne ? 'does' : 'do'} not act: the script “${active ?? ''}” is active there. A server runs one script at a time.`,
				...(isActive
					? ['After a change of a standing decision, the page says that the script there is older: put it there again.']
					: []),
				...left.map(({ name, why }) => `${name} stays with Kovrel: ${why}.`)
			]
		};
	} catch (error) {
		if (!(error instanceof ServerTrouble)) throw error;
		throw new Refusal('not-possible', `${error.message} The former script there stays as it was.`, { cause: error });
	}
}

/* The standing decisions that are on, in their order, and where archived mail goes: what a script is made of. */
async function decisionsHash(context: Context, mailboxId: number, archiveOn: string): Promise<string> {
	const rules = (await listRules(context, { mailbox: mailboxId })).filter(({ isOn }) => isOn);
	const said = rules.map(({ id, query, stay, then, options, since, until }) => [
		id,
		query,
		stay,
		then,
		options,
		since,
		until
	]);
	return createHash('sha256')
		.update(JSON.stringify([archiveOn, said]))
		.digest('hex');
}

/** How the script on the server of a mailbox stands to the decisions here. */
export type ScriptStanding = 'none' | 'current' | 'older';

/** Whether the server of a live mailbox has a script of Kovrel's, and whether it is older than the decisions here. */
export async function scriptOnServer(context: Context, input: { mailboxId: number }): Promise<ScriptStanding> {
	const source = await sourceOf(context.db, input.mailboxId);
	if (source?.scriptSays == null) return 'none';
	const now = await decisionsHash(context, input.mailboxId, source.archiveOn);
	return now === source.scriptSays ? 'current' : 'older';
}

/** The use cases of this file. */
export const serverScriptUseCases = [
	defineUseCase({
		name: 'scriptOnServer',
		input: () => Joi.object({ mailboxId: id.required() }).required(),
		thread: 'reader',
		right: 'administrator',
		run: scriptOnServer
	}),
	defineUseCase({
		name: 'putScriptOnServer',
		input: () =>
			Joi.object({
				mailbox: mailboxRef.required(),
				port: Joi.number().integer().min(1).max(65_535),
				replaces: Joi.boolean()
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: putScriptOnServer
	})
] as const;
