import Joi from 'joi';
import { followedDetails } from '../../../core/search/renamed.ts';
import { atOnceFor } from '../access/index.ts';
import { type Context, defineUseCase, text } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import { carryOutAtOnce, collect, type Decided, type DecisionResult } from '../docket/index.ts';
import { appendLedger } from '../ledger/index.ts';
import { followRename, itemsWithTag, removeTag, requireMailboxId, requireTag } from '../mail/index.ts';
import { Refusal } from '../refusal.ts';

/**
 * Removes a tag, or merges it into another. Messages change by dockets, one in each mailbox; the tag itself goes with
 * the last of them, so that one collected on a docket goes when this is asked again.
 *
 * @param input.mergeInto the tag that its messages get
 * @returns the decisions on its messages, and whether the tag is gone
 * @throws Refusal
 */
export async function clearTag(
	context: Context,
	input: { tag: string; mergeInto?: string | undefined; atOnce?: number | undefined }
): Promise<{ decided: DecisionResult[]; isRemoved: boolean }> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const tag = await requireTag(db, input.tag);
		const into = input.mergeInto === undefined ? undefined : await requireTag(db, input.mergeInto);
		if (into?.id === tag.id) throw new Refusal('bad-input', 'A tag cannot be merged into itself. Nothing was changed.');
		const mailboxes = await itemsWithTag(db, tag.id);
		const messages = [...mailboxes.values()].reduce((sum, ids) => sum + ids.length, 0);
		const isAtOnce = messages <= (input.atOnce ?? (await atOnceFor(within)));
		const decided: DecisionResult[] = [];
		for (const [mailboxId, ids] of mailboxes) {
			const scope = { kind: 'items' as const, ids, label: `tagged “${tag.name}”` };
			const lines: Decided[] = [
				...(into ? [{ decision: 'tag' as const, options: { tag: into.name }, scope }] : []),
				{ decision: 'untag', options: { tag: tag.name }, scope }
			];
			const mailbox = await requireMailboxId(within, mailboxId);
			decided.push(await (isAtOnce ? carryOutAtOnce : collect)(within, mailbox, lines));
		}
		const isRemoved = isAtOnce && (await itemsWithTag(db, tag.id)).size === 0;
		if (isRemoved) {
			await removeTag(db, tag.id);
			const merged = into && {
				mergedInto: into.name,
				...followedDetails(
					await followRename(within, { of: 'tag', id: into.id, from: tag.name, to: into.name, isAlone: true })
				)
			};
			await appendLedger(db, {
				at: context.now(),
				by: context.actor,
				action: 'tag-changed',
				details: { tag: tag.name, ...(merged ?? { removed: true }) }
			});
		}
		return { decided, isRemoved };
	});
}

/** The use cases of this file. */
export const clearTagUseCases = [
	defineUseCase({
		name: 'clearTag',
		input: () => Joi.object({ tag: text.required(), mergeInto: text }).required(),
		thread: 'writer',
		right: 'administrator',
		run: clearTag
	})
] as const;
