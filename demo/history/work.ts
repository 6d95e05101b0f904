import type { DecisionOptions } from '../../src/core/docket/decision.ts';
import type { Decision } from '../../src/core/docket/decisions.ts';
import { decideArchiving, prepareEmptying } from '../../src/lib/server/archive/index.ts';
import type { Context } from '../../src/lib/server/context/index.ts';
import { carryOut, type DocketView, prepareDocket, takeBack } from '../../src/lib/server/docket/index.ts';
import { find } from '../../src/lib/server/find/index.ts';
import { decideLists, leaveLists, listIds } from '../../src/lib/server/lists/index.ts';
import { recordOpening, requireMailbox } from '../../src/lib/server/mail/index.ts';
import { runSchedule, setRetaining } from '../../src/lib/server/retention/index.ts';
import { runRules } from '../../src/lib/server/rules/index.ts';

/* What people of the office do in Kovrel, each as they would on its pages. */

const confirmed = ({ id, confirmation }: DocketView) => ({
	id,
	...(confirmation ? { confirm: confirmation.text } : {})
});

/** Archives what came before a day, of a folder or the whole mailbox. @returns the docket */
export async function archiveBefore(
	context: Context,
	mailbox: string,
	before: string,
	folder?: string
): Promise<number> {
	const { id } = await decideArchiving(context, { mailbox, before, folder });
	await carryOut(context, { id });
	return id;
}

/** Decides on what a search finds in a mailbox. */
export async function decideFound(
	context: Context,
	mailbox: string,
	query: string,
	decision: Decision,
	options: DecisionOptions = {}
): Promise<void> {
	const { id: mailboxId } = await requireMailbox(context, mailbox);
	const scope = { kind: 'query' as const, query, label: `found by ${query}` };
	await carryOut(
		context,
		confirmed(await prepareDocket(context, { mailboxId, lines: [{ decision, options, scope }] }))
	);
}

/** Takes a docket back. */
export async function regret(context: Context, docket: number): Promise<void> {
	await takeBack(context, { id: docket });
}

/** Empties what has lain in the bin for all its days, with a certificate. */
export async function emptyDueBin(context: Context, mailbox: string): Promise<void> {
	const { id: mailboxId } = await requireMailbox(context, mailbox);
	const docket = await prepareEmptying(context, { mailboxId, onlyDue: true });
	if (docket.messages > 0) await carryOut(context, confirmed(docket));
}

/** Unsubscribes from lists; their mail stays where it is. */
export async function unsubscribe(context: Context, mailbox: string, lists: readonly string[]): Promise<void> {
	const { id: mailboxId } = await requireMailbox(context, mailbox);
	const ids = await listIds(context, lists);
	const { id } = await decideLists(context, { mailboxId, ids, decision: 'unsubscribe', backIssues: 'leave' });
	await carryOut(context, { id });
	await leaveLists(context, { docketId: id });
}

/** Lets the standing decisions act; a docket that asks is carried out. */
export async function actOnRules(context: Context, mailbox: string): Promise<void> {
	for (const { docket, asks } of (await runRules(context, { mailbox })).runs)
		if (asks && docket !== undefined) await carryOut(context, { id: docket });
}

/** Switches the scheduled run of a mailbox on, after seeing what it would do; its first dockets are carried out. */
export async function switchRunOn(context: Context, mailbox: string): Promise<void> {
	const would = await runSchedule(context, { mailbox, dryRun: true });
	await setRetaining(context, { mailbox, mode: 'do', every: 7, seen: would.archived + would.destroyed });
	await followSchedule(context, mailbox);
}

/** A run of the schedule; dockets that ask are carried out by the person who acts. */
export async function followSchedule(context: Context, mailbox: string): Promise<void> {
	const { dockets } = await runSchedule(context, { mailbox, always: true });
	for (const { docket, asks, what } of dockets)
		if (asks && docket !== undefined)
			await carryOut(context, { id: docket, ...(what === 'destroy' ? { confirm: mailbox } : {}) });
}

/** Somebody finds mail and opens the first hits. */
export async function lookUp(context: Context, query: string, opened: number): Promise<number[]> {
	const { hits } = await find(context, { query, limit: 10 });
	const ids = hits.map(({ id }) => id);
	if (ids.length === 0) return [];
	await recordOpening(context, { ids, what: 'found words in', query });
	for (const id of ids.slice(0, opened)) await recordOpening(context, { ids: [id], what: 'read' });
	return ids;
}
