import type { Role } from '../../../core/access/roles.ts';
import type { Instant } from '../../../core/message/date.ts';
import { change, type Db, idOf, row, rows, sql } from '../database/index.ts';

/** How far somebody has come in: a code is wanted, one has to be set up, or all is open. */
export type Stage = 'code' | 'code-wanted' | 'whole';

/** Somebody's visit from one browser. */
export interface Session {
	id: number;
	personId: number;
	stage: Stage;
	beganAt: Instant;
	seenAt: Instant;
	/** What the browser says it is. */
	device: string;
}

const SESSION = sql`session.id, session.person_id AS personId, session.stage, session.began_at AS beganAt,
	session.seen_at AS seenAt, session.device`;

/** Begins a session. @returns the id */
export async function addSession(db: Db, session: Omit<Session, 'id' | 'seenAt'> & { hash: Buffer }): Promise<number> {
	return idOf(
		db('session').insert({
			hash: session.hash,
			person_id: session.personId,
			stage: session.stage,
			began_at: session.beganAt,
			seen_at: session.beganAt,
			device: session.device
		})
	);
}

/** The session of a token, with whose it is; undefined for those who may not sign in any more. */
export async function findSession(db: Db, hash: Buffer): Promise<(Session & { name: string; role: Role }) | undefined> {
	return row(
		db,
		sql`SELECT ${SESSION}, person.name, person.role FROM session JOIN person ON person.id = person_id
		 WHERE hash = ${hash} AND person.ended_at IS NULL`
	);
}

/** The sessions of a person, the last used first. */
export async function sessionsOf(db: Db, personId: number): Promise<Session[]> {
	return rows<Session>(db, sql`SELECT ${SESSION} FROM session WHERE person_id = ${personId} ORDER BY seen_at DESC`);
}

/** Notes that a session is used. */
export async function touchSession(db: Db, id: number, seenAt: Instant): Promise<void> {
	await db('session').where({ id }).update({ seen_at: seenAt });
}

/** Ends a session of a person. @returns whether there was one */
export async function removeSession(db: Db, personId: number, id: number): Promise<boolean> {
	return (await db('session').where({ id, person_id: personId }).delete()) > 0;
}

/** Ends the sessions of a person. @param except one that goes on */
export async function removeSessions(db: Db, personId: number, except = 0): Promise<number> {
	return db('session').where({ person_id: personId }).whereNot('id', except).delete();
}

/** Ends the sessions of administrators who use no one-time codes. */
export async function endVisitsWithoutCodes(db: Db): Promise<void> {
	await change(
		db,
		sql`DELETE FROM session WHERE person_id IN (SELECT id FROM person WHERE role = 'administrator' AND code_secret IS NULL)`
	);
}

/** Ends every session, and every link by which somebody would come in: they are those of another time. */
export async function endAllVisits(db: Db): Promise<void> {
	await db('session').delete();
	await db('entry_link').delete();
}

/** Sweeps away sessions that nobody can use any more. */
export async function removeSessionsUnseenSince(db: Db, seenAt: Instant): Promise<void> {
	await db('session').where('seen_at', '<', seenAt).delete();
}
