import type { Role } from '../../../core/access/roles.ts';
import type { Failures } from '../../../core/access/throttle.ts';
import type { Instant } from '../../../core/message/date.ts';
import { nameKey } from '../../../core/weigh/roles.ts';
import { change, type Db, idOf, insertRows, raw, row, rows, sql } from '../database/index.ts';

/** A person who may sign in, or once did. */
export interface Person {
	id: number;
	name: string;
	/** The address to sign in with. */
	address: string;
	role: Role;
	/** Argon2id; null until they have set a password. */
	password: string | null;
	/** The secret for one-time codes, Base32; null if they use none. */
	codeSecret: string | null;
	/** The time step of the last accepted code. */
	codeStep: number;
	/** The instant from which they may not sign in. */
	endedAt: string | null;
}

const PERSON = {
	id: 'id',
	name: 'name',
	address: 'address',
	role: 'role',
	password: 'password',
	codeSecret: 'code_secret',
	codeStep: 'code_step',
	endedAt: 'ended_at'
} as const;

/** The form in which names and addresses are compared. */
export const personKey = nameKey;

/** The person with that id. */
export async function getPerson(db: Db, id: number): Promise<Person | undefined> {
	return db('person').where({ id }).first(PERSON);
}

/** The person with that name or address. */
export async function findPerson(db: Db, nameOrAddress: string): Promise<Person | undefined> {
	const key = personKey(nameOrAddress);
	return db('person')
		.where({ address_key: key })
		.orWhere({ name_key: key })
		.orderByRaw('address_key = ? DESC', key)
		.first(PERSON);
}

/** Whether there are people; if not, the first start has still to be done. */
export async function hasPeople(db: Db): Promise<boolean> {
	return (await row(db, sql`SELECT 1 FROM person LIMIT 1`)) !== undefined;
}

/** A person in the list of people. */
export interface PersonRow {
	id: number;
	name: string;
	address: string;
	role: Role;
	endedAt: string | null;
	/** Whether they have set a password. */
	hasPassword: number;
	hasCode: number;
	seenAt: Instant | null;
	/** Names of the groups they are in. */
	groups: string[];
	/** The mailboxes they own. */
	owns: { id: number; name: string }[];
}

/** All people; those without access come last. */
export async function listPersons(db: Db): Promise<PersonRow[]> {
	const found = await rows<Omit<PersonRow, 'groups' | 'owns'> & { groups: string; owns: string }>(
		db,
		sql`SELECT id, name, address, role, ended_at AS endedAt, password IS NOT NULL AS hasPassword,
			code_secret IS NOT NULL AS hasCode,
			(SELECT max(seen_at) FROM session WHERE person_id = person.id) AS seenAt,
			(SELECT json_group_array(person_group.name) FROM group_member JOIN person_group ON person_group.id = group_id
				WHERE person_id = person.id) AS groups,
			(SELECT json_group_array(json_object('id', mailbox.id, 'name', mailbox.name)) FROM mailbox
				WHERE owner_id = person.id) AS owns
		 FROM person ORDER BY ended_at IS NOT NULL, name_key`
	);
	return found.map((person) => ({
		...person,
		groups: JSON.parse(person.groups) as string[],
		owns: JSON.parse(person.owns) as PersonRow['owns']
	}));
}

/** The addresses of all people. */
export async function addressesOfPeople(db: Db): Promise<string[]> {
	return (await db('person').select('address')).map(({ address }) => address);
}

/** Adds a person; name and address have to be new. @returns the id */
export async function addPerson(
	db: Db,
	person: Pick<Person, 'name' | 'address' | 'role'> & { madeAt: string }
): Promise<number> {
	return idOf(
		db('person').insert({
			name: person.name,
			name_key: personKey(person.name),
			address: person.address,
			address_key: personKey(person.address),
			role: person.role,
			made_at: person.madeAt
		})
	);
}

/** Changes a person's details. */
export async function putPerson(
	db: Db,
	id: number,
	values: Partial<Pick<Person, 'role' | 'password' | 'codeSecret' | 'codeStep' | 'endedAt'>>
): Promise<void> {
	const columns = {
		role: 'role',
		password: 'password',
		codeSecret: 'code_secret',
		codeStep: 'code_step',
		endedAt: 'ended_at'
	} as const;
	for (const [key, value] of Object.entries(values))
		await change(db, sql`UPDATE person SET ${raw(columns[key as keyof typeof columns])} = ${value} WHERE id = ${id}`);
}

/** The number of messages that a person has set for decisions at once; undefined: none. */
export async function atOnceSetBy(db: Db, personId: number): Promise<number | undefined> {
	return (await db('person').where({ id: personId }).first('at_once'))?.at_once ?? undefined;
}

/** Sets that number. */
export async function putAtOnce(db: Db, personId: number, atOnce: number): Promise<void> {
	await db('person').where({ id: personId }).update({ at_once: atOnce });
}

/** How many administrators may sign in. */
export async function countAdministrators(db: Db): Promise<number> {
	const found = await row<{ n: number }>(
		db,
		sql`SELECT count(*) AS n FROM person WHERE role = 'administrator' AND ended_at IS NULL`
	);
	return found?.n ?? 0;
}

/** Replaces the recovery codes. */
export async function putRecoveryCodes(db: Db, personId: number, hashes: readonly Buffer[]): Promise<void> {
	await db('recovery_code').where({ person_id: personId }).delete();
	await insertRows(
		db,
		`INSERT INTO recovery_code (person_id, hash)`,
		hashes.map((hash) => [personId, hash])
	);
}

/** How many recovery codes are left. */
export async function countRecoveryCodes(db: Db, personId: number): Promise<number> {
	return (
		(await row<{ n: number }>(db, sql`SELECT count(*) AS n FROM recovery_code WHERE person_id = ${personId}`))?.n ?? 0
	);
}

/** Uses a recovery code. @returns whether it was valid */
export async function useRecoveryCode(db: Db, personId: number, hash: Buffer): Promise<boolean> {
	return (await db('recovery_code').where({ person_id: personId, hash }).delete()) > 0;
}

/** Makes a link that lets somebody sign in once. Earlier links for the same person become invalid. */
export async function putEntryLink(
	db: Db,
	link: { hash: Buffer; personId: number | null; expiresAt: Instant }
): Promise<void> {
	await change(db, sql`DELETE FROM entry_link WHERE person_id IS ${link.personId}`);
	await idOf(db('entry_link').insert({ hash: link.hash, person_id: link.personId, expires_at: link.expiresAt }));
}

/** The person a link is for; undefined if it is invalid. */
export async function findEntryLink(
	db: Db,
	hash: Buffer,
	now: Instant
): Promise<{ personId: number | null } | undefined> {
	return db('entry_link').where({ hash }).where('expires_at', '>', now).first({ personId: 'person_id' });
}

/** Marks a link as used. */
export async function removeEntryLink(db: Db, hash: Buffer): Promise<void> {
	await db('entry_link').where({ hash }).delete();
}

/** The recent failures stored under a key. */
export async function failuresOf(db: Db, key: string): Promise<Failures | undefined> {
	return db('failed_attempt').where({ key }).first('failures', { lastAt: 'last_at' });
}

/** Removes failures that no longer count. */
export async function forgetFailuresBefore(db: Db, at: Instant): Promise<void> {
	await db('failed_attempt').where('last_at', '<', at).delete();
}

/** Stores failures; undefined removes them. */
export async function putFailures(db: Db, key: string, failures: Failures | undefined): Promise<void> {
	if (!failures) {
		await db('failed_attempt').where({ key }).delete();
		return;
	}
	await db('failed_attempt')
		.insert({ key, failures: failures.failures, last_at: failures.lastAt })
		.onConflict(['key'])
		.merge(['failures', 'last_at']);
}
