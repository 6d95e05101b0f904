import type { Decision, Left, LeftReason } from '../../../core/docket/effects.ts';
import { asksForDates, readQuery } from '../../../core/search/query.ts';
import type { Db } from '../database/open.ts';
import { row, rows } from './rows.ts';
import { type Condition, condition } from './search.ts';

/** Which items a line of a docket means. */
export type Scope =
	/** Live items received before a date, of one folder with its subfolders or of the whole mailbox. */
	| { kind: 'before'; before: string; folderIds: number[] | undefined; folderPath: string | undefined }
	/** What a search finds, in whatever folder of the mailbox; `label` says it in words. */
	| { kind: 'query'; query: string; label: string }
	/** Everything that is archived. */
	| { kind: 'archived' }
	| { kind: 'items'; ids: number[] };

/** Sums of the items that a line means. */
export interface LineSums {
	messages: number;
	bytes: number;
	folders: number;
	oldest: string | undefined;
	newest: string | undefined;
	left: Left[];
}

/**
 * The store's form of core/docket/effects: of the items within reach of a scope, which ones the decision changes, and under
 * which name the others are left.
 */
export interface Selection {
	within: Condition;
	chosen: Condition;
	/** SQL that gives the reason for the items that are not chosen. */
	reason: Condition;
}

function within(mailboxId: number, scope: Scope): Condition {
	if (scope.kind === 'archived')
		return { sql: `item.mailbox_id = ? AND item.state = 'archived'`, bindings: [mailboxId] };
	if (scope.kind === 'items')
		return {
			sql: `item.id IN (SELECT value FROM json_each(?)) AND item.mailbox_id = ?`,
			bindings: [JSON.stringify(scope.ids), mailboxId]
		};
	if (scope.kind === 'query') {
		const found = condition(readQuery(scope.query));
		return { sql: `item.mailbox_id = ? AND ${found.sql}`, bindings: [mailboxId, ...found.bindings] };
	}
	const limited = scope.folderIds !== undefined;
	return {
		sql: `item.mailbox_id = ? AND item.state IN ('live', 'binned')${limited ? ` AND item.folder_id IN (SELECT value FROM json_each(?))` : ''}`,
		bindings: [mailboxId, ...(limited ? [JSON.stringify(scope.folderIds)] : [])]
	};
}

/** What a decision on a scope means, as conditions on items. */
export function selection(mailboxId: number, decision: Decision, scope: Scope): Selection {
	if (decision === 'arrange')
		return {
			within: within(mailboxId, scope),
			chosen: { sql: `item.state = 'archived'`, bindings: [] },
			reason: { sql: `item.state`, bindings: [] }
		};
	if (decision === 'restore')
		return {
			within: within(mailboxId, scope),
			chosen: { sql: `item.state IN ('archived', 'binned')`, bindings: [] },
			reason: { sql: `item.state`, bindings: [] }
		};
	const dated = scope.kind === 'before' || (scope.kind === 'query' && asksForDates(readQuery(scope.query)));
	return {
		within: within(mailboxId, scope),
		chosen: {
			sql: `item.state = 'live'${dated ? ` AND item.date_in_doubt = 0 AND item.received_on IS NOT NULL` : ''}${scope.kind === 'before' ? ` AND item.received_on < ?` : ''}`,
			bindings: scope.kind === 'before' ? [scope.before] : []
		},
		reason: {
			sql: `CASE WHEN item.state <> 'live' THEN item.state
				WHEN item.date_in_doubt = 1 OR item.received_on IS NULL THEN 'date-in-doubt' ELSE 'newer' END`,
			bindings: []
		}
	};
}

/** Counts what a decision would do, without doing it. */
export async function countSelection(db: Db, mailboxId: number, decision: Decision, scope: Scope): Promise<LineSums> {
	const { within, chosen, reason } = selection(mailboxId, decision, scope);
	const sums = await row<{
		messages: number;
		bytes: number;
		folders: number;
		oldest: string | null;
		newest: string | null;
	}>(
		db,
		`SELECT count(*) AS messages, ifnull(sum(bytes), 0) AS bytes, count(DISTINCT folder_id) AS folders,
			min(received_on) AS oldest, max(received_on) AS newest
		 FROM item WHERE ${within.sql} AND ${chosen.sql}`,
		[...within.bindings, ...chosen.bindings]
	);
	const left = await rows<{ reason: LeftReason; messages: number }>(
		db,
		`SELECT ${reason.sql} AS reason, count(*) AS messages FROM item
		 WHERE ${within.sql} AND NOT ifnull(${chosen.sql}, 0) GROUP BY 1 ORDER BY 2 DESC`,
		[...reason.bindings, ...within.bindings, ...chosen.bindings]
	);
	return {
		messages: sums?.messages ?? 0,
		bytes: sums?.bytes ?? 0,
		folders: sums?.folders ?? 0,
		oldest: sums?.oldest ?? undefined,
		newest: sums?.newest ?? undefined,
		left
	};
}

/** What a decision would do in one folder. */
export interface FolderSums {
	path: string;
	messages: number;
	bytes: number;
	oldest: string | null;
	newest: string | null;
}

/** The same counts, folder by folder. */
export async function countByFolder(
	db: Db,
	mailboxId: number,
	decision: Decision,
	scope: Scope
): Promise<FolderSums[]> {
	const { within, chosen } = selection(mailboxId, decision, scope);
	return rows<FolderSums>(
		db,
		`SELECT folder.path, chosen.messages, chosen.bytes, chosen.oldest, chosen.newest FROM (
			SELECT folder_id, count(*) AS messages, sum(bytes) AS bytes, min(received_on) AS oldest, max(received_on) AS newest
			FROM item WHERE ${within.sql} AND ${chosen.sql} GROUP BY folder_id
		 ) chosen JOIN folder ON folder.id = chosen.folder_id ORDER BY folder.path`,
		[...within.bindings, ...chosen.bindings]
	);
}
