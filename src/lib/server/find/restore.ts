import type { Left } from '../../../core/docket/left.ts';
import { carryOut, type Decided, itemsByMailbox, prepareDocket, tryDecision } from '../docket/index.ts';
import { type Context, defineUseCase, id } from '../context/index.ts';
import { Refusal } from '../refusal.ts';
import { withinReach } from '../access/index.ts';
import { requireMailboxId } from '../mail/index.ts';
import Joi from 'joi';

/** The result of restoring. */
export interface RestoreResult {
	restored: number;
	left: Left[];
	/** The dockets, one a mailbox, by which it can be taken back. */
	dockets: number[];
	/** Ids without an item. */
	unknown: number;
}

/**
 * Restores archived or binned items to the folders they came from, with date, flags and read state.
 *
 * @throws Refusal where none of the ids is an item
 */
export async function restore(context: Context, input: { ids: number[] }): Promise<RestoreResult> {
	// a number out of reach is answered like an unknown one
	const ids = await withinReach(context, input.ids, 'restore');
	const { mailboxes, unknown } = await itemsByMailbox(context, ids);
	if (mailboxes.size === 0)
		throw new Refusal('not-found', 'There are no such messages that you may restore. Nothing was restored.');
	const result: RestoreResult = {
		restored: 0,
		left: [],
		dockets: [],
		unknown: unknown + input.ids.length - ids.length
	};
	for (const [mailboxId, ids] of mailboxes) {
		const line: Decided = { decision: 'restore', options: {}, scope: { kind: 'items', ids } };
		const tried = await tryDecision(context, await requireMailboxId(context, mailboxId), line);
		// live items need no docket
		if (tried.messages === 0) {
			result.left.push(...tried.left);
			continue;
		}
		const draft = await prepareDocket(context, { mailboxId, lines: [line] });
		const outcome = await carryOut(context, { id: draft.id });
		result.restored += outcome.messages;
		result.left.push(...outcome.left);
		result.dockets.push(outcome.docket);
	}
	return result;
}

/** The use cases of this file. */
export const restoreUseCases = [
	defineUseCase({
		name: 'restore',
		input: () => Joi.object({ ids: Joi.array().items(id).required() }).required(),
		thread: 'writer',
		right: 'finder',
		run: restore
	})
] as const;
