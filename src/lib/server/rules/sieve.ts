import { ruleSentence } from '../../../core/rules/rule.ts';
import { rulesInSieve, sieveOf, type SievePlaces, type SieveScript } from '../../../core/rules/sieve.ts';
import { type Context, defineUseCase, id, text, today } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import { requireMailbox } from '../mail/index.ts';
import { Refusal } from '../refusal.ts';
import { addRule, checkedRule, listRules, ruleFields, switchRule } from './rules.ts';
import Joi from 'joi';

/**
 * The standing decisions of a mailbox as a Sieve script, for a server that delivers its mail.
 *
 * @param input.discards whether that server destroys at once what Kovrel would delete
 * @param places how that server names the folders; without it, as usual
 * @throws Refusal
 */
export async function exportSieve(
	context: Context,
	input: { mailbox: string | number; discards?: boolean | undefined },
	places?: SievePlaces
): Promise<SieveScript> {
	const mailbox = await requireMailbox(context, input.mailbox);
	const rules = await listRules(context, { mailbox: mailbox.id });
	return sieveOf(
		rules.map(({ id: number, name, query, stay, then, options, since, until, isOn }) => ({
			id: number,
			name,
			query,
			stay,
			then,
			options,
			...(since === undefined ? {} : { since }),
			...(until === undefined ? {} : { until }),
			isOn
		})),
		`Standing decisions of ${mailbox.name}, written by Kovrel on ${today(context)}.`,
		{ discards: input.discards ?? false, ...(places ? { places } : {}) }
	);
}

const ruleShape = Joi.object(ruleFields);
const LARGEST_SCRIPT = 2_000_000;

/**
 * Adds the standing decisions of a script that Kovrel wrote: those that stand already, word for word, are not doubled.
 * All of them or, where one is wrong, none.
 *
 * @throws Refusal
 */
export async function importSieve(
	context: Context,
	input: { mailbox: string | number; script: string }
): Promise<{ added: number[]; same: number }> {
	if (input.script.length > LARGEST_SCRIPT)
		throw new Refusal('bad-input', 'A script is no larger than 2 MB. Nothing was changed.');
	let given: ReturnType<typeof rulesInSieve>;
	try {
		given = rulesInSieve(input.script);
	} catch (cause) {
		throw new Refusal('bad-input', `${(cause as Error).message}. Nothing was changed.`, { cause });
	}
	if (given.length === 0)
		throw new Refusal(
			'bad-input',
			'This is no script that Kovrel wrote: it names no standing decision. Nothing was changed.'
		);
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const standing = new Set(
			(await listRules(within, { mailbox: input.mailbox })).map((rule) => `${rule.name}\n${ruleSentence(rule)}`)
		);
		const added: number[] = [];
		for (const { isOn, ...rule } of given) {
			const { error, value } = ruleShape.validate(rule);
			if (error)
				throw new Refusal('bad-input', `The script is not as Kovrel wrote it: ${error.message}. Nothing was changed.`);
			const checked = checkedRule(value as typeof rule);
			if (standing.has(`${checked.name}\n${ruleSentence(checked)}`)) continue;
			const { id: number } = await addRule(within, { mailbox: input.mailbox, rule: checked });
			if (isOn === false) await switchRule(within, { id: number, isOn: false });
			added.push(number);
		}
		return { added, same: given.length - added.length };
	});
}

const mailboxRef = Joi.alternatives(id, text);

/** The use cases of this file. */
export const sieveUseCases = [
	defineUseCase({
		name: 'exportSieve',
		input: () => Joi.object({ mailbox: mailboxRef.required(), discards: Joi.boolean() }).required(),
		thread: 'reader',
		right: 'administrator',
		run: exportSieve
	}),
	defineUseCase({
		name: 'importSieve',
		input: () =>
			Joi.object({ mailbox: mailboxRef.required(), script: Joi.string().max(4_000_000).required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: importSieve
	})
] as const;
