import { isSame } from '../../../core/access/roles.ts';
import { inTransaction } from '../database/index.ts';
import { runsByItself } from './dockets-store.ts';
import type { Mailbox } from '../mail/index.ts';
import { carryOut } from './carry-out.ts';
import type { Context } from '../context/index.ts';
import { decideOn, prepareDocket, updateDraft } from './prepare-docket.ts';
import { type DocketView, requireDocket, viewDocket } from './show-docket.ts';
import { type Decided } from './scope.ts';

/** What is done by itself, as a docket. */
export interface ByItself {
	/** What it is called, and marked with: by the mark it is known again. */
	name: string;
	line: Decided;
	/** Has the line put on the draft that waits for a person, beside what it says; without it, the draft says this instead. */
	adds?: boolean;
	/** What has to be noted together with the draft. */
	note?: (within: Context, docket: DocketView) => Promise<void>;
}

/**
 * Does what is decided by itself. The first time in a mailbox it is only drafted: a person carries it out, and the next ones
 * run by themselves (invariant 9). A draft that is there already is never carried out by itself: it may be a person's.
 *
 * One docket waits at a time: it is brought up to date, unless a person has decided something on it.
 *
 * @returns the docket, and whether it waits for a person; undefined: one waits already and has not changed
 */
export async function doByItself(
	context: Context,
	mailbox: Mailbox,
	{ name, line, adds = false, note }: ByItself
): Promise<{ docket: DocketView; asks: boolean } | undefined> {
	const { hasRun, draftId, begun } = await runsByItself(context.db, mailbox.id, name);
	// one that was cut off goes on first, so that there are never two; one that a person stopped is theirs to go on with
	if (begun && isSame(begun.by, context.actor))
		await carryOut(context, { id: begun.id, confirm: mailbox.name, byItself: true });
	else if (begun && hasRun) return undefined;
	if (!hasRun && !adds && begun) return undefined;
	if (!hasRun && !adds && draftId !== undefined) return updateWaiting(context, mailbox, draftId, line);
	const docket = await inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const drafted =
			hasRun || draftId === undefined
				? await prepareDocket(within, { mailboxId: mailbox.id, name, byItself: true, lines: [line] })
				: await decideOn(within, { id: draftId, line });
		await note?.(within, drafted);
		return drafted;
	});
	// the name is asked for so that no click slips: here, nobody clicks
	if (hasRun) await carryOut(context, { id: docket.id, expected: docket, confirm: mailbox.name, byItself: true });
	return { docket, asks: !hasRun };
}

async function updateWaiting(
	context: Context,
	mailbox: Mailbox,
	draftId: number,
	line: Decided
): Promise<{ docket: DocketView; asks: boolean } | undefined> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const before = await requireDocket(within, draftId);
		if (before.changedBy.length > 0) return undefined;
		const now = await updateDraft(within, { id: draftId, lines: [line] });
		return now.messages === before.messages ? undefined : { docket: viewDocket(now, mailbox), asks: true };
	});
}
