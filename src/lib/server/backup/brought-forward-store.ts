import type { Hold } from '../../../core/retention/holds.ts';
import { change, type Db, insertRows, raw, row, rows, sql } from '../database/index.ts';
import { nameKey } from '../../../core/weigh/roles.ts';
import { addHold, listHolds, refreshHolds } from '../standing/index.ts';

/** A line of the ledger that identifies a state of the data. */
export interface LedgerMark {
	number: number;
	hash: string;
}

/* Tables of people and their access. Sessions and links are left out: everybody signs in again. */
const ACCESS = {
	person: 'id, name, name_key, address, address_key, role, password, code_secret, code_step, made_at, ended_at',
	recovery_code: 'person_id, hash',
	person_group: 'id, name, name_key',
	group_member: 'group_id, person_id',
	access_grant:
		'id, person_id, group_id, mailbox_id, folder_id, may_find, may_restore, until, given_at, given_by, ended_at'
} as const;
type AccessTable = keyof typeof ACCESS;

type Values = Record<string, unknown>;

/** Facts of a later state of the data that an earlier one must not lose. */
export interface Forward {
	access: Record<AccessTable, Values[]>;
	owners: { id: number; ownerId: number | null }[];
	holds: { hold: Omit<Hold, 'id'>; items: number[] }[];
}

/** The last line of the ledger. */
export async function ledgerMark(db: Db): Promise<LedgerMark | undefined> {
	return db('ledger').orderBy('number', 'desc').first('number', 'hash');
}

/** Whether these data are a later state of those whose ledger ended with a line. */
export async function goesOnFrom(db: Db, { number, hash }: LedgerMark): Promise<boolean> {
	return (await row(db, sql`SELECT 1 FROM ledger WHERE number = ${number} AND hash = ${hash}`)) !== undefined;
}

/** Reads the facts to be carried over. */
export async function readForward(db: Db): Promise<Forward> {
	const access = {} as Forward['access'];
	for (const table of Object.keys(ACCESS) as AccessTable[])
		access[table] = await rows<Values>(db, sql`SELECT ${raw(ACCESS[table])} FROM ${raw(table)}`);
	const holds: Forward['holds'] = [];
	for (const { id, name, because, from, scope, placedOn, placedBy } of await listHolds(db, { released: false })) {
		const items = await db('hold_item').where({ hold_id: id }).select({ id: 'item_id' });
		holds.push({
			hold: { name, because, from, scope, placedOn, placedBy },
			items: items.map((item) => item.id)
		});
	}
	return {
		access,
		owners: await db('mailbox').select('id', { ownerId: 'owner_id' }),
		holds
	};
}

/* Rows of `person` are never removed, and neither is what others refer to. */
async function putAccess(db: Db, { access, owners }: Forward): Promise<void> {
	for (const table of ['access_grant', 'group_member', 'recovery_code', 'person_group'])
		await change(db, sql`DELETE FROM ${raw(table)}`);
	// these data lack the mailbox or folder, so it cannot be reached
	const known = async (table: string) =>
		new Set((await rows<{ id: number }>(db, sql`SELECT id FROM ${raw(table)}`)).map(({ id }) => id));
	const [mailboxes, folders] = [await known('mailbox'), await known('folder')];
	const grants = access.access_grant.filter(
		(grant) =>
			mailboxes.has(grant.mailbox_id as number) && (grant.folder_id === null || folders.has(grant.folder_id as number))
	);
	for (const table of Object.keys(ACCESS) as AccessTable[]) {
		const columns = ACCESS[table].split(', ');
		const found = table === 'access_grant' ? grants : access[table];
		await insertRows(
			db,
			`INSERT INTO ${table} (${ACCESS[table]})`,
			found.map((values) => columns.map((column) => values[column])),
			table === 'person'
				? `ON CONFLICT (id) DO UPDATE SET ${columns.map((column) => `${column} = excluded.${column}`).join(', ')}`
				: ''
		);
	}
	await change(
		db,
		sql`UPDATE mailbox SET owner_id = later.value ->> 'ownerId' FROM json_each(${JSON.stringify(owners)}) later WHERE mailbox.id = later.value ->> 'id'`
	);
}

/* A hold in both keeps both scopes; one that only shares the name is added beside it. */
async function putHolds(db: Db, holds: Forward['holds'], here: readonly Hold[]): Promise<string[]> {
	const placed: string[] = [];
	for (const { hold, items } of holds) {
		const named = here.find(({ name }) => nameKey(name) === nameKey(hold.name));
		const isSame = named && JSON.stringify(named.scope) === JSON.stringify(hold.scope);
		const name = named && !isSame ? `${hold.name} (placed since the backup)` : hold.name;
		const id = isSame ? named.id : await addHold(db, { ...hold, name });
		if (!isSame) placed.push(name);
		await change(
			db,
			sql`INSERT INTO hold_item (item_id, hold_id) SELECT item.id, ${id} FROM json_each(${JSON.stringify(items)}) held CROSS JOIN item ON item.id = held.value
			 WHERE item.state <> 'destroyed' ON CONFLICT DO NOTHING`
		);
		await refreshHolds(db, sql`1`, id);
	}
	return placed;
}

/**
 * Writes the facts of a later state into these data: people, their access, and current holds. A hold released since
 * stays, as does everything that only the earlier state has.
 *
 * @returns names of the holds placed again, and of those that only the earlier state has
 */
export async function putForward(db: Db, forward: Forward): Promise<{ placed: string[]; releasedSince: string[] }> {
	await putAccess(db, forward);
	const later = new Set(forward.holds.map(({ hold }) => nameKey(hold.name)));
	const here = await listHolds(db, { released: false });
	return {
		placed: await putHolds(db, forward.holds, here),
		releasedSince: here.filter(({ name }) => !later.has(nameKey(name))).map(({ name }) => name)
	};
}
