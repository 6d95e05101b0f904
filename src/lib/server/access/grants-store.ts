import type { CalendarDate } from '../../../core/calendar.ts';
import { change, type Db, idOf, row, rows, sql } from '../database/index.ts';
import { personKey } from './people-store.ts';

/** Access to mail, granted to a person or a group. */
export interface Grant {
	id: number;
	personId: number | null;
	groupId: number | null;
	/** Name of the person or the group. */
	to: string;
	mailboxId: number;
	mailbox: string;
	folderId: number | null;
	/** Its path; null for the whole mailbox. */
	folder: string | null;
	mayFind: number;
	mayRestore: number;
	/** The last day on which it is valid. */
	until: CalendarDate | null;
	givenAt: string;
	givenBy: string;
}

const GRANT = sql`SELECT access_grant.id, access_grant.person_id AS personId, access_grant.group_id AS groupId,
	ifnull(person.name, person_group.name) AS "to", access_grant.mailbox_id AS mailboxId, mailbox.name AS mailbox,
	access_grant.folder_id AS folderId, folder.path AS folder, may_find AS mayFind, may_restore AS mayRestore, until,
	given_at AS givenAt, given_by AS givenBy
 FROM access_grant JOIN mailbox ON mailbox.id = access_grant.mailbox_id LEFT JOIN folder ON folder.id = access_grant.folder_id
	LEFT JOIN person ON person.id = access_grant.person_id LEFT JOIN person_group ON person_group.id = access_grant.group_id
 WHERE access_grant.ended_at IS NULL`;

/** All grants that were not ended, including those past their last day. */
export async function listGrants(db: Db): Promise<Grant[]> {
	return rows<Grant>(db, sql`${GRANT} ORDER BY access_grant.person_id IS NULL, "to" COLLATE NOCASE, mailbox.name_key`);
}

/** A person's access on a day, by their own grants and those of their groups. */
export async function grantsOf(db: Db, personId: number, on: CalendarDate): Promise<Grant[]> {
	return rows<Grant>(
		db,
		sql`${GRANT} AND (access_grant.person_id = ${personId} OR access_grant.group_id IN (SELECT group_id FROM group_member WHERE person_id = ${personId}))
			AND (until IS NULL OR until >= ${on})`
	);
}

/** Grants access. @returns the number of the grant */
export async function addGrant(
	db: Db,
	grant: Pick<Grant, 'personId' | 'groupId' | 'mailboxId' | 'folderId' | 'until' | 'givenAt' | 'givenBy'> & {
		mayFind: boolean;
		mayRestore: boolean;
	}
): Promise<number> {
	return idOf(
		db('access_grant').insert({
			person_id: grant.personId,
			group_id: grant.groupId,
			mailbox_id: grant.mailboxId,
			folder_id: grant.folderId,
			may_find: Number(grant.mayFind),
			may_restore: Number(grant.mayRestore),
			until: grant.until,
			given_at: grant.givenAt,
			given_by: grant.givenBy
		})
	);
}

/** Ends a grant. @returns the grant; undefined if there is none */
export async function endGrant(db: Db, id: number, at: string): Promise<Grant | undefined> {
	const found = await row<Grant>(db, sql`${GRANT} AND access_grant.id = ${id}`);
	if (found) await db('access_grant').where({ id }).update({ ended_at: at });
	return found;
}

/** People who share grants. */
export interface Group {
	id: number;
	name: string;
	members: { id: number; name: string }[];
}

/** All groups. */
export async function listGroups(db: Db): Promise<Group[]> {
	const found = await rows<Omit<Group, 'members'> & { members: string }>(
		db,
		sql`SELECT id, name, (SELECT json_group_array(json_object('id', person.id, 'name', person.name)) FROM group_member
			JOIN person ON person.id = person_id WHERE group_id = person_group.id) AS members
		 FROM person_group ORDER BY name_key`
	);
	return found.map((group) => ({ ...group, members: JSON.parse(group.members) as Group['members'] }));
}

/** The group of that name. */
export async function findGroup(db: Db, name: string): Promise<{ id: number; name: string } | undefined> {
	return db('person_group')
		.where({ name_key: personKey(name) })
		.first('id', 'name');
}

/** Makes a group. @returns its id */
export async function addGroup(db: Db, name: string): Promise<number> {
	return idOf(db('person_group').insert({ name, name_key: personKey(name) }));
}

/** Replaces the members of a group. */
export async function putMembers(db: Db, groupId: number, personIds: readonly number[]): Promise<void> {
	await db('group_member').where({ group_id: groupId }).delete();
	await change(
		db,
		sql`INSERT INTO group_member (group_id, person_id) SELECT ${groupId}, id FROM person WHERE id IN (SELECT value FROM json_each(${JSON.stringify(personIds)}))`
	);
}

/** Removes a group and ends its grants. */
export async function removeGroup(db: Db, id: number): Promise<void> {
	await db('access_grant').where({ group_id: id }).delete();
	await db('group_member').where({ group_id: id }).delete();
	await db('person_group').where({ id }).delete();
}

/** Sets the owner of a mailbox, and whether they may tidy it. @param personId null: none */
export async function putOwner(db: Db, mailboxId: number, personId: number | null, tidies: boolean): Promise<void> {
	await db('mailbox')
		.where({ id: mailboxId })
		.update({ owner_id: personId, owner_tidies: Number(tidies && personId !== null) });
}

/** A mailbox that a person owns. */
export interface OwnMailbox {
	id: number;
	name: string;
	/** Whether they may decide on its mail. */
	tidies: boolean;
}

/** The mailboxes that a person owns. */
export async function ownMailboxes(db: Db, personId: number): Promise<OwnMailbox[]> {
	const found = await db('mailbox')
		.where({ owner_id: personId })
		.orderBy('name_key')
		.select({ id: 'id', name: 'name', tidies: 'owner_tidies' });
	return found.map(({ tidies, ...mailbox }) => ({ ...mailbox, tidies: tidies === 1 }));
}

/** A mailbox with its owner. */
export interface Owner {
	mailboxId: number;
	mailbox: string;
	owner: string;
	tidies: boolean;
}

/** The owners of mailboxes. */
export async function listOwners(db: Db): Promise<Owner[]> {
	const found = await rows<Omit<Owner, 'tidies'> & { tidies: number }>(
		db,
		sql`SELECT mailbox.id AS mailboxId, mailbox.name AS mailbox, person.name AS owner, owner_tidies AS tidies
		 FROM mailbox JOIN person ON person.id = owner_id ORDER BY mailbox.name_key`
	);
	return found.map(({ tidies, ...owner }) => ({ ...owner, tidies: tidies === 1 }));
}

/** These folders and their subfolders. */
export async function foldersBelow(db: Db, folderIds: readonly number[]): Promise<number[]> {
	const found = await rows<{ id: number }>(
		db,
		sql`WITH RECURSIVE below (id) AS (
			SELECT value FROM json_each(${JSON.stringify(folderIds)}) UNION SELECT folder.id FROM folder JOIN below ON folder.parent_id = below.id
		 ) SELECT id FROM below`
	);
	return found.map(({ id }) => id);
}
