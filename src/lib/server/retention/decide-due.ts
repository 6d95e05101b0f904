import Joi from 'joi';
import type { DecisionOptions } from '../../../core/docket/decision.ts';
import { type Decision, ruleOf } from '../../../core/docket/decisions.ts';
import type { DueAction } from '../../../core/retention/terms.ts';
import {
	type Context,
	decision,
	decisionOptions,
	defineUseCase,
	dueAction,
	id,
	text,
	today
} from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import { decide, prepareDocket, type Scope } from '../docket/index.ts';
import { Refusal } from '../refusal.ts';
import { daysMeant } from './due.ts';

/** A decision on due mail: on single messages, or on a whole row. */
interface DueDecision {
	decision: Decision;
	options: DecisionOptions;
	/** Their disposition. */
	action: DueAction;
	/** By mailbox, as each docket belongs to one. */
	items?: { mailboxId: number; ids: number[] }[] | undefined;
	all?: { mailboxId: number; date: string; retentionId: number; folderId: number } | undefined;
}

function scopesOf(context: Context, { decision, action, items = [], all }: DueDecision) {
	if (all) {
		const { mailboxId, date, retentionId, folderId } = all;
		const scope: Scope = {
			kind: 'due',
			action,
			...daysMeant(date, today(context)),
			folderIds: [folderId],
			retentionIds: [retentionId],
			label: 'that are due'
		};
		return [{ mailboxId, scope }];
	}
	return items.map(({ mailboxId, ids }): { mailboxId: number; scope: Scope } => ({
		mailboxId,
		scope: ruleOf(decision).needsEndedPeriod
			? { kind: 'due', action, by: today(context), ids, label: 'whose period has ended' }
			: { kind: 'items', ids, label: 'that are due' }
	}));
}

/**
 * Puts a decision on due mail on the docket of each mailbox; an irreversible one gets a docket of its own.
 *
 * @returns the numbers of the dockets
 * @throws Refusal, and then nothing is drafted
 */
async function decideDue(context: Context, input: DueDecision): Promise<number[]> {
	const { decision, options } = input;
	const rule = ruleOf(decision);
	if (!rule.screens.includes('due'))
		throw new Refusal('bad-input', 'That is not decided on mail that is due. Nothing was drafted.');
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const drafted: number[] = [];
		for (const { mailboxId, scope } of scopesOf(context, input)) {
			const line = { decision, options, scope };
			const docket =
				rule.takenBack === 'never'
					? await prepareDocket(within, { mailboxId, lines: [line] })
					: await decide(within, { mailboxId, line });
			drafted.push(docket.id);
		}
		return drafted;
	});
}

/** The use cases of this file. */
export const decideDueUseCases = [
	defineUseCase({
		name: 'decideDue',
		input: () =>
			Joi.object({
				decision: decision.required(),
				options: decisionOptions.required(),
				action: dueAction.required(),
				items: Joi.array()
					.items(Joi.object({ mailboxId: id.required(), ids: Joi.array().items(id).min(1).max(10_000).required() }))
					.min(1)
					.max(1_000),
				all: Joi.object({
					mailboxId: id.required(),
					date: text.required(),
					// no retention, or no folder: 0
					retentionId: Joi.number().integer().min(0).required(),
					folderId: Joi.number().integer().min(0).required()
				})
			})
				.xor('items', 'all')
				.required(),
		thread: 'writer',
		right: 'administrator',
		run: decideDue
	})
] as const;
