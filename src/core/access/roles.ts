/** What a person does here. */
export const ROLES = {
	administrator: 'looks after the mailboxes: sees and does everything',
	auditor: 'sees schedule, ledger, certificates and statistics, and no message',
	colleague: 'finds and has back what was granted'
} as const;
export type Role = keyof typeof ROLES;

/** Who may ask for something. */
export type Right =
	/** Nobody needs to have signed in. */
	| 'anybody'
	/** Everybody who has signed in. */
	| 'person'
	/** Who finds mail: an administrator everywhere, a colleague as far as their grants reach. */
	| 'finder'
	/** Who looks after the mailboxes, and who looks after those who do. */
	| 'oversight'
	| 'administrator';

const ALLOWED: Record<Right, readonly Role[]> = {
	anybody: ['administrator', 'auditor', 'colleague'],
	person: ['administrator', 'auditor', 'colleague'],
	finder: ['administrator', 'colleague'],
	oversight: ['administrator', 'auditor'],
	administrator: ['administrator']
};

/** Whether somebody may. @param role undefined: nobody has signed in */
export function allows(right: Right, role: Role | undefined): boolean {
	return right === 'anybody' || (role !== undefined && ALLOWED[right].includes(role));
}

/** Somebody who acts. */
export interface Actor {
	/** Null where nobody does, and Kovrel does it by itself; also at a terminal before there are people. */
	personId: number | null;
	/** As the ledger names them. */
	name: string;
	role: Role;
}

/** Kovrel itself, for what nobody asks for. */
export const KOVREL: Actor = administratorNamed('Kovrel');

/** Somebody who looks after the mailboxes, by name alone. */
export function administratorNamed(name: string): Actor {
	return { personId: null, name, role: 'administrator' };
}

/** Somebody who has acted, as is noted of them: a person by their number, Kovrel and whoever was at a terminal by name alone. */
export type By = Pick<Actor, 'personId' | 'name'>;

/** Whether two deeds are of the same hands: names decide only where one of them is no person's. */
export function isSame(a: By, b: By): boolean {
	return a.personId === null || b.personId === null ? a.name === b.name : a.personId === b.personId;
}
