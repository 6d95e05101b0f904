/** A person's role. */
export const ROLES = {
	administrator: 'looks after the mailboxes: sees and does everything',
	auditor: 'sees schedule, ledger, certificates and statistics, and no message',
	colleague: 'finds and restores the mail granted to them'
} as const;
export type Role = keyof typeof ROLES;

/** Roles that may use a use case. */
export type Right =
	/** Nobody needs to have signed in. */
	| 'anybody'
	/** Everybody who has signed in. */
	| 'person'
	/** Administrators everywhere, colleagues as far as their grants reach. */
	| 'finder'
	/** The administrators. */
	| 'oversight'
	| 'administrator';

const ALLOWED: Record<Right, readonly Role[]> = {
	anybody: ['administrator', 'auditor', 'colleague'],
	person: ['administrator', 'auditor', 'colleague'],
	finder: ['administrator', 'colleague'],
	oversight: ['administrator', 'auditor'],
	administrator: ['administrator']
};

/** Whether a role is among those allowed. @param role undefined: nobody has signed in */
export function allows(right: Right, role: Role | undefined): boolean {
	return right === 'anybody' || (role !== undefined && ALLOWED[right].includes(role));
}

/** Somebody who acts. */
export interface Actor {
	/** Null if Kovrel acts by itself, or at a terminal before there are people. */
	personId: number | null;
	/** The name in the ledger. */
	name: string;
	role: Role;
}

/** Kovrel itself, as the actor of what runs on a schedule. */
export const KOVREL: Actor = administratorNamed('Kovrel');

/** An administrator known by name alone. */
export function administratorNamed(name: string): Actor {
	return { personId: null, name, role: 'administrator' };
}

/** An actor as it is stored: a person by number, Kovrel and the terminal by name alone. */
export type By = Pick<Actor, 'personId' | 'name'>;

/** Whether two actors are the same; names decide only if one of them is no person. */
export function isSame(a: By, b: By): boolean {
	return a.personId === null || b.personId === null ? a.name === b.name : a.personId === b.personId;
}
