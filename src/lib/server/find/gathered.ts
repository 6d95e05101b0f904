import { proposalLabel } from '../../../core/likeness/proposals.ts';
import type { Gathered } from '../../../core/search/narrowing.ts';
import { type Context, today } from '../context/index.ts';
import { all, type Condition, sql } from '../database/index.ts';
import type { Scope } from '../docket/index.ts';
import { lotsScope, proposedWhere } from '../lots/index.ts';
import { deskFolders, inLots, type Mailbox, requireFolder, requireMailboxId } from '../mail/index.ts';
import { dueRow } from '../retention/index.ts';
import { dueCondition, inFolders } from '../standing/index.ts';
import { Refusal } from '../refusal.ts';

async function idsBelow(context: Context, mailbox: Mailbox, folder: string | undefined): Promise<number[] | undefined> {
	return folder ? (await requireFolder(context, mailbox, folder)).ids : undefined;
}

async function requireOne(context: Context, [mailboxId, ...others]: readonly number[]): Promise<Mailbox> {
	if (mailboxId === undefined || others.length > 0)
		throw new Refusal('bad-input', 'That belongs to one mailbox: select the mailbox first.');
	return requireMailboxId(context, mailboxId);
}

/**
 * The condition for messages that another page gathers.
 *
 * @param mailboxIds the mailboxes that are searched; undefined: all
 * @throws Refusal
 */
export async function gatheredWhere(
	context: Context,
	gathered: Gathered,
	mailboxIds: readonly number[] | undefined
): Promise<Condition> {
	switch (gathered.of) {
		case 'lot': {
			const { by, key, folder } = gathered;
			const ids = folder ? await idsBelow(context, await requireOne(context, mailboxIds ?? []), folder) : undefined;
			return all([inFolders(ids), inLots(by, [key], today(context))]);
		}
		case 'proposal':
			return proposedWhere(context, {
				mailboxId: (await requireOne(context, mailboxIds ?? [])).id,
				kind: gathered.proposal,
				folder: gathered.folder
			});
		case 'inbox':
			return inFolders(await deskFolders(context.db, mailboxIds));
		case 'waited':
			return sql`item.id IN (SELECT lying.id FROM pile_item CROSS JOIN item lying ON lying.id = pile_item.item_id AND lying.folder_id = pile_item.folder_id
				WHERE until <= ${today(context)})`;
		case 'review':
			return sql`item.id IN (SELECT item_id FROM review_item WHERE review_id = ${gathered.review})`;
		case 'due':
			return dueCondition(dueRow(context, gathered));
	}
}

/**
 * What another page gathers, as the scope of a docket's line: the docket then finds the messages itself and names
 * them better than by their numbers.
 *
 * @param query words that narrow it
 * @returns undefined where only the numbers of the messages say it
 */
export async function gatheredScope(
	context: Context,
	mailbox: Mailbox,
	gathered: Gathered,
	query: string,
	without: readonly number[]
): Promise<Scope | undefined> {
	if (gathered.of === 'lot') {
		const { by, key, label, folder } = gathered;
		return lotsScope(context, mailbox, {
			by,
			keys: [key],
			labels: label ? [label] : [],
			without: [...without],
			query,
			folder
		});
	}
	if (query || without.length > 0 || gathered.of === 'review' || gathered.of === 'waited' || gathered.of === 'inbox')
		return undefined;
	if (gathered.of === 'proposal')
		return {
			kind: 'proposal',
			proposal: gathered.proposal,
			ids: undefined,
			folderIds: await idsBelow(context, mailbox, gathered.folder),
			label: proposalLabel(gathered.proposal)
		};
	const { actions, ...row } = dueRow(context, gathered);
	return { kind: 'due', action: actions[0], ...row, label: 'that are due' };
}
