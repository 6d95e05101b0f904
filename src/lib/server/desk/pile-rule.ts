import Joi from 'joi';
import { type Context, defineUseCase, id, text } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import { ensureFolder, requireMailbox } from '../mail/index.ts';
import { addRule, ruleFields, type RuleGiven } from '../rules/index.ts';
import { Refusal } from '../refusal.ts';
import { putPile } from './piles-store.ts';

/** Adds a standing decision that puts mail on a pile: its folder is made a pile. @throws Refusal */
export async function addPileRule(
	context: Context,
	input: { mailbox: string | number; rule: RuleGiven }
): Promise<{ id: number; sentence: string }> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const added = await addRule(within, { mailbox: input.mailbox, rule: { ...input.rule, then: 'move' } });
		const mailbox = await requireMailbox(within, input.mailbox);
		const folder = await ensureFolder(db, mailbox.id, 'mailbox', input.rule.options.folder?.trim() ?? '');
		if (folder.role !== null)
			throw new Refusal(
				'bad-input',
				`${folder.path} is no pile: it is the ${folder.role} folder. Nothing was changed.`
			);
		await putPile(db, { folderId: folder.id, mailboxId: mailbox.id, at: context.now(), by: context.actor.name });
		return added;
	});
}

/** The use cases of this file. */
export const pileRuleUseCases = [
	defineUseCase({
		name: 'addPileRule',
		input: () =>
			Joi.object({
				mailbox: Joi.alternatives(id, text).required(),
				rule: Joi.object(ruleFields).required()
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: addPileRule
	})
] as const;
