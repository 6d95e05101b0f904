import { ruleOf, winner } from '../../../core/docket/decisions.ts';
import { RESTS_ON_ANOTHER } from '../../../core/likeness/proposals.ts';
import type { Conflict } from '../../../core/docket/sentences.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import { change, type Db, inList, raw, row, rows, sql } from '../database/index.ts';
import type { Docket, DocketLine } from './dockets-store.ts';
import type { Paused } from '../standing/index.ts';
import type { LineSums } from './scope.ts';
import { type FolderSums, selectedItems } from './selection-store.ts';

/** Where a line's items are stored while they are counted (a temporary table), or after freezing. */
export type ClaimTable = 'temp.claim' | 'docket_item';

/** Collects the items of each line of a draft in a temporary table: several lines may claim the same ones. */
export async function claimItems(db: Db, docket: Docket, paused: Paused): Promise<void> {
	await change(
		db,
		sql`CREATE TEMP TABLE IF NOT EXISTS claim (line_id INTEGER, item_id INTEGER, PRIMARY KEY (line_id, item_id)) WITHOUT ROWID`
	);
	await change(db, sql`DELETE FROM temp.claim`);
	for (const selected of selectedItems(docket.mailboxId, docket.lines, paused))
		await change(db, sql`INSERT INTO temp.claim ${selected}`);
}

/* Of fewer lines, each pair is compared. */
const FEW_LINES = 8;

/* The pairs of lines that may claim the same items, in their order; of many lines few do, found by one statement. */
async function sharingLines(db: Db, table: ClaimTable, { lines }: Docket): Promise<[DocketLine, DocketLine][]> {
	const pairs = (some: readonly DocketLine[]) =>
		some.flatMap((earlier, at) => some.slice(at + 1).map((later): [DocketLine, DocketLine] => [earlier, later]));
	if (lines.length <= FEW_LINES) return pairs(lines);
	const groups = await rows<{ ids: string }>(
		db,
		sql`SELECT DISTINCT ids FROM (
			SELECT json_group_array(line_id) AS ids FROM ${raw(table)} WHERE line_id IN ${inList(lines.map(({ id }) => id))}
			GROUP BY item_id HAVING count(*) > 1)`
	);
	const sharing = new Map<string, [DocketLine, DocketLine]>();
	for (const { ids } of groups) {
		const group = new Set(JSON.parse(ids) as number[]);
		for (const [a, b] of pairs(lines.filter(({ id }) => group.has(id)))) sharing.set(`${a.id} ${b.id}`, [a, b]);
	}
	return [...sharing.values()].sort(([a, b], [c, d]) => a.position - c.position || b.position - d.position);
}

/**
 * Assigns each item to the line that decides on it (core/docket/decisions), and to none if its duplicate goes in the
 * same docket.
 *
 * @returns the conflicts between lines, how many items of each line are needed as remaining duplicates, and whether items may
 *   lie under several lines
 */
export async function settleClaims(
	db: Db,
	table: ClaimTable,
	docket: Docket
): Promise<{ conflicts: Conflict[]; needed: Map<number, number>; areShared: boolean }> {
	const conflicts: Conflict[] = [];
	const sharing = await sharingLines(db, table, docket);
	for (const [earlier, later] of sharing) {
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
	return { conflicts, needed, areShared: sharing.length > 0 };
}

/** The sums of the claimed or frozen items, by the number of their line; a line without any is left out. */
export async function claimedSums(
	db: Db,
	table: ClaimTable,
	{ lines }: Pick<Docket, 'lines'>
): Promise<Map<number, Omit<LineSums, 'left' | 'elsewhere'>>> {
	const found = await rows<{
		id: number;
		messages: number;
		bytes: number;
		folders: number;
		oldest: string | null;
		newest: string | null;
		flagged: number;
	}>(
		db,
		sql`SELECT claimed.line_id AS id, count(*) AS messages, sum(bytes) AS bytes, count(DISTINCT folder_id) AS folders,
			min(received_on) AS oldest, max(received_on) AS newest, sum(flagged) AS flagged
		 FROM ${raw(table)} claimed CROSS JOIN item ON item.id = claimed.item_id
		 WHERE claimed.line_id IN ${inList(lines.map(({ id }) => id))} GROUP BY 1`
	);
	return new Map(
		found.map(({ id, oldest, newest, ...sums }) => [
			id,
			{ ...sums, oldest: oldest ?? undefined, newest: newest ?? undefined }
		])
	);
}

/** The sums of a line that claims nothing. */
export const NOTHING_CLAIMED: Omit<LineSums, 'left' | 'elsewhere'> = {
	messages: 0,
	bytes: 0,
	folders: 0,
	oldest: undefined,
	newest: undefined,
	flagged: 0
};

/** The conflicts in which a line has a part. */
export const conflictsOf = ({ position }: DocketLine, conflicts: readonly Conflict[]): Conflict[] =>
	conflicts.filter(({ wins, loses }) => wins === position || loses === position);

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
