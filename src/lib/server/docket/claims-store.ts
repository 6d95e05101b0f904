import { ruleOf, winner } from '../../../core/docket/decisions.ts';
import { RESTS_ON_ANOTHER } from '../../../core/likeness/proposals.ts';
import type { Conflict } from '../../../core/docket/sentences.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import { change, type Db, inList, raw, row, rows, sql } from '../database/index.ts';
import type { Docket, DocketLine } from './dockets-store.ts';
import type { Paused } from '../standing/index.ts';
import type { LineSums } from './scope.ts';
import { type FolderSums, selection } from './selection-store.ts';

/** Where a line's items are stored while they are counted (a temporary table), or after freezing. */
export type ClaimTable = 'temp.claim' | 'docket_item';

/** Collects the items of each line of a draft in a temporary table: several lines may claim the same ones. */
export async function claimItems(db: Db, docket: Docket, paused: Paused): Promise<void> {
	await change(
		db,
		sql`CREATE TEMP TABLE IF NOT EXISTS claim (line_id INTEGER, item_id INTEGER, PRIMARY KEY (line_id, item_id)) WITHOUT ROWID`
	);
	await change(db, sql`DELETE FROM temp.claim`);
	for (const line of docket.lines) {
		const { within, selected } = selection(docket.mailboxId, line, paused);
		await change(
			db,
			sql`INSERT INTO temp.claim SELECT ${line.id}, item.id FROM item WHERE ${within} AND ${selected} ORDER BY item.id`
		);
	}
}

/* Of fewer lines, each pair is compared. */
const FEW_LINES = 8;

/* Of many lines, few claim the same items: the groups of lines that do, by one statement. */
async function sharingLines(db: Db, table: ClaimTable, { lines }: Docket): Promise<(a: number, b: number) => boolean> {
	if (lines.length <= FEW_LINES) return () => true;
	const groups = await rows<{ ids: string }>(
		db,
		sql`SELECT DISTINCT ids FROM (
			SELECT json_group_array(line_id) AS ids FROM ${raw(table)} WHERE line_id IN ${inList(lines.map(({ id }) => id))}
			GROUP BY item_id HAVING count(*) > 1)`
	);
	const sharing = new Set<string>();
	for (const { ids } of groups) {
		const group = JSON.parse(ids) as number[];
		for (const a of group) for (const b of group) sharing.add(`${a} ${b}`);
	}
	return (a, b) => sharing.has(`${a} ${b}`);
}

/**
 * Assigns each item to the line that decides on it (core/docket/decisions), and to none if its duplicate goes in the
 * same docket.
 *
 * @returns the conflicts between lines, and how many items of each line are needed as remaining duplicates
 */
export async function settleClaims(
	db: Db,
	table: ClaimTable,
	docket: Docket
): Promise<{ conflicts: Conflict[]; needed: Map<number, number> }> {
	const conflicts: Conflict[] = [];
	const share = await sharingLines(db, table, docket);
	for (const [at, earlier] of docket.lines.entries())
		for (const later of docket.lines.slice(at + 1)) {
			if (!share(earlier.id, later.id)) continue;
			const wins = winner(earlier, later);
			if (!wins) continue;
			const [winning, losing] = wins === 'earlier' ? [earlier, later] : [later, earlier];
			const messages = await change(
				db,
				sql`DELETE FROM ${raw(table)} WHERE line_id = ${losing.id} AND item_id IN (SELECT item_id FROM ${raw(table)} WHERE line_id = ${winning.id})`
			);
			if (messages > 0) conflicts.push({ wins: winning.position, loses: losing.position, messages });
		}
	const needed = new Map<number, number>();
	const ends = docket.lines.filter(({ decision }) => ruleOf(decision).takesAway);
	for (const { id, scope } of ends) {
		if (scope.kind !== 'proposal' || !RESTS_ON_ANOTHER.includes(scope.proposal)) continue;
		const kept = await change(
			db,
			sql`DELETE FROM ${raw(table)} WHERE line_id = ${id} AND item_id IN (
				SELECT proposal_item.item_id FROM proposal_item WHERE mailbox_id = ${docket.mailboxId} AND kind = ${scope.proposal}
					AND better_item_id IN (SELECT item_id FROM ${raw(table)} WHERE line_id IN (SELECT value FROM json_each(${JSON.stringify(ends.map((line) => line.id))}))))`
		);
		if (kept > 0) needed.set(id, kept);
	}
	return { conflicts, needed };
}

/** The sums of a line's claimed or frozen items. */
export async function claimedSums(
	db: Db,
	table: ClaimTable,
	line: Pick<DocketLine, 'id'>
): Promise<Omit<LineSums, 'left' | 'elsewhere'>> {
	const found = await row<{
		messages: number;
		bytes: number;
		folders: number;
		oldest: string | null;
		newest: string | null;
		flagged: number;
	}>(
		db,
		sql`SELECT count(*) AS messages, ifnull(sum(bytes), 0) AS bytes, count(DISTINCT folder_id) AS folders,
			min(received_on) AS oldest, max(received_on) AS newest, ifnull(sum(flagged), 0) AS flagged
		 FROM ${raw(table)} claimed CROSS JOIN item ON item.id = claimed.item_id WHERE claimed.line_id = ${line.id}`
	);
	return {
		messages: found?.messages ?? 0,
		bytes: found?.bytes ?? 0,
		folders: found?.folders ?? 0,
		oldest: found?.oldest ?? undefined,
		newest: found?.newest ?? undefined,
		flagged: found?.flagged ?? 0
	};
}

/** The sums of a docket's claims: a message under several lines counts once (invariant 15). */
export async function claimedTotal(db: Db, table: ClaimTable, docket: Pick<Docket, 'lines'>): Promise<Weight> {
	const found = await row<Weight>(
		db,
		sql`SELECT count(*) AS messages, ifnull(sum(bytes), 0) AS bytes FROM (
			SELECT DISTINCT item_id FROM ${raw(table)} WHERE line_id IN (SELECT value FROM json_each(${JSON.stringify(docket.lines.map(({ id }) => id))}))
		 ) claimed CROSS JOIN item ON item.id = claimed.item_id`
	);
	return found ?? { messages: 0, bytes: 0 };
}

/** The claims by folder: each item once. */
export async function claimedByFolder(db: Db): Promise<FolderSums[]> {
	return rows<FolderSums>(
		db,
		sql`SELECT folder.id, folder.path, folder.tree = 'archive' AS isArchive, count(*) AS messages, sum(bytes) AS bytes, min(received_on) AS oldest, max(received_on) AS newest
		 FROM (SELECT DISTINCT item_id FROM temp.claim) claimed CROSS JOIN item ON item.id = claimed.item_id
			JOIN folder ON folder.id = item.folder_id GROUP BY folder.id ORDER BY folder.path`
	);
}

/** The frozen items by folder. */
export async function frozenByFolder(db: Db, docketId: number): Promise<FolderSums[]> {
	return rows<FolderSums>(
		db,
		sql`SELECT folder.id, folder.path, folder.tree = 'archive' AS isArchive, count(*) AS messages, sum(bytes) AS bytes, min(received_on) AS oldest, max(received_on) AS newest
		 FROM docket_item JOIN item ON item.id = docket_item.item_id JOIN folder ON folder.id = docket_item.from_folder_id
		 WHERE docket_item.line_id IN (SELECT id FROM docket_line WHERE docket_id = ${docketId}) GROUP BY folder.id ORDER BY folder.path`
	);
}
