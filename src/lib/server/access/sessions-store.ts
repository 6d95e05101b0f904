import type { Role } from '../../../core/access/roles.ts';
import type { Instant } from '../../../core/message/date.ts';
import { change, type Db, idOf, row, rows, sql } from '../database/index.ts';

/** The sign-in step of a session: a code is needed, one has to be set up, or it is complete. */
export type Stage = 'code' | 'code-wanted' | 'whole';

/** A person's session in one browser. */
export interface Session {
	id: number;
	personId: number;
	stage: Stage;
	beganAt: Instant;
	seenAt: Instant;
	/** The browser's name for itself. */
	device: string;
}

const SESSION = sql`session.id, session.person_id AS personId, session.stage, session.began_at AS beganAt,
	session.seen_at AS seenAt, session.device`;

/** Creates a session. @returns the id */
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

/** The session of a token, with its person; undefined if they may not sign in any more. */
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

/** Notes the use of a session. */
export async function touchSession(db: Db, id: number, seenAt: Instant): Promise<void> {
	await db('session').where({ id }).update({ seen_at: seenAt });
}

/** Ends a session of a person. @returns whether it existed */
export async function removeSession(db: Db, personId: number, id: number): Promise<boolean> {
	return (await db('session').where({ id, person_id: personId }).delete()) > 0;
}

/** Ends the sessions of a person. @param except the session that stays */
export async function removeSessions(db: Db, personId: number, except = 0): Promise<number> {
	return db('session').where({ person_id: personId }).whereNot('id', except).delete();
}

/** Ends the sessions of administrators without one-time codes. */
export async function endSessionsWithoutCodes(db: Db): Promise<void> {
	await change(
		db,
		sql`DELETE FROM session WHERE person_id IN (SELECT id FROM person WHERE role = 'administrator' AND code_secret IS NULL)`
	);
}

/** Ends all sessions and sign-in links: they belong to the restored backup's time. */
export async function endAllSessions(db: Db): Promise<void> {
	await db('session').delete();
	await db('entry_link').delete();
}

/** Removes expired sessions. */
export async function removeSessionsUnseenSince(db: Db, seenAt: Instant): Promise<void> {
	await db('session').where('seen_at', '<', seenAt).delete();
}
