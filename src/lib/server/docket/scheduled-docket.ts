import { ruleOf } from '../../../core/docket/decisions.ts';
import { isSame } from '../../../core/access/roles.ts';
import { inTransaction } from '../database/index.ts';
import { scheduledDockets } from './dockets-store.ts';
import { clockDoubt } from '../ledger/index.ts';
import type { Mailbox } from '../mail/index.ts';
import { carryOut } from './carry-out.ts';
import type { Context } from '../context/index.ts';
import { decideOn, prepareDocket, updateDraft } from './prepare-docket.ts';
import { type DocketView, requireDocket, viewDocket } from './show-docket.ts';
import { type Decided } from './scope.ts';

/** A decision of a scheduled run, as a docket. */
export interface ScheduledDecision {
	/** Its name, and the mark by which it is recognised. */
	name: string;
	lines: readonly Decided[];
	/** Adds the lines to the draft that waits for a person; undefined: they replace its own. */
	adds?: boolean;
	/** What is stored together with the draft. */
	note?: (within: Context, docket: DocketView) => Promise<void>;
}

/**
 * Carries out a scheduled decision. The first one in a mailbox is only drafted: a person carries it out, and the next
 * ones run automatically (invariant 9). An existing draft is never carried out automatically: it may be a person's.
 *
 * Only one docket waits: it is counted again, unless a person has changed it.
 *
 * @returns the docket, and whether it waits for a person; undefined: one waits already, unchanged
 */
export async function carryOutScheduled(
	context: Context,
	mailbox: Mailbox,
	{ name, lines, adds = false, note }: ScheduledDecision
): Promise<{ docket: DocketView; asks: boolean } | undefined> {
	const { hasRun: wasApproved, draftId, begun } = await scheduledDockets(context.db, mailbox.id, name);
	// by a clock that is doubted nothing is destroyed by itself
	const destroys = lines.some(({ decision }) => ruleOf(decision).to === 'destroyed');
	const hasRun = wasApproved && !(destroys && (await clockDoubt(context)));
	// an interrupted one is continued first, so that there are never two; one stopped by a person is theirs to continue
	if (begun && isSame(begun.by, context.actor))
		await carryOut(context, { id: begun.id, confirm: mailbox.name, byItself: true });
	else if (begun && hasRun) return undefined;
	if (!hasRun && !adds && begun) return undefined;
	if (!hasRun && !adds && draftId !== undefined) return updateWaiting(context, mailbox, draftId, { lines, note });
	const docket = await inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const drafted =
			hasRun || draftId === undefined
				? await prepareDocket(within, { mailboxId: mailbox.id, name, byItself: true, lines })
				: await decideOn(within, { id: draftId, lines });
		await note?.(within, drafted);
		return drafted;
	});
	// the confirmation guards against a slip of the hand, which cannot happen here
	if (hasRun) await carryOut(context, { id: docket.id, expected: docket, confirm: mailbox.name, byItself: true });
	return { docket, asks: !hasRun };
}

async function updateWaiting(
	context: Context,
	mailbox: Mailbox,
	draftId: number,
	{ lines, note }: Pick<ScheduledDecision, 'lines' | 'note'>
): Promise<{ docket: DocketView; asks: boolean } | undefined> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const before = await requireDocket(within, draftId);
		if (before.changedBy.length > 0) return undefined;
		const now = await updateDraft(within, { id: draftId, lines });
		const view = viewDocket(now, mailbox);
		await note?.(within, view);
		return now.messages === before.messages ? undefined : { docket: view, asks: true };
	});
}
