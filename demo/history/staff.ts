import { type Actor, type Role } from '../../src/core/access/roles.ts';
import { signInByLink, endSessions } from '../../src/lib/server/access/index.ts';
import { actingAs, type Context } from '../../src/lib/server/context/index.ts';
import { inTransaction, putSetting } from '../../src/lib/server/database/index.ts';
import { addPerson, changeGroup, grant, requirePerson, setOwner } from '../../src/lib/server/people/index.ts';

/* Nobody's secret: they exist in the demo alone, which says so where one signs in. */
const PASSWORD = 'ferry to the demo islands';
const PEOPLE: { name: string; address: string; role: Role }[] = [
	{ name: 'Ylva Strand', address: 'ylva@skerryline.example', role: 'administrator' },
	{ name: 'Ruben Holm', address: 'ruben@skerryline.example', role: 'administrator' },
	{ name: 'Agnes Quill', address: 'agnes@skerryline.example', role: 'auditor' },
	{ name: 'Tove Marstrand', address: 'tove@skerryline.example', role: 'colleague' },
	{ name: 'Jonas Berg', address: 'jonas@skerryline.example', role: 'colleague' }
];

/** Adds the people of the office; the demo says how each of them signs in. */
export async function letPeopleIn(context: Context): Promise<void> {
	for (const person of PEOPLE) {
		const { link } = await addPerson(context, person);
		await signInByLink(context, {
			token: link,
			password: PASSWORD,
			from: { device: 'set up with the demo', address: 'demo' }
		});
		await endSessions(actingAs(context, await actorOf(context, person.name)), { except: 0 });
	}
	await inTransaction(context.db, (db) =>
		putSetting(db, 'demo-accounts', JSON.stringify(PEOPLE.map((person) => ({ ...person, password: PASSWORD }))))
	);
}

/** Says whose a mailbox is, and who may find and restore what. */
export async function shareMailboxes(context: Context): Promise<void> {
	await setOwner(context, { mailbox: 'Tove Marstrand', owner: 'Tove Marstrand', tidies: true });
	await changeGroup(context, { group: 'Passenger desk', members: ['Tove Marstrand', 'Jonas Berg'] });
	await grant(context, { to: 'Passenger desk', mailbox: 'Passenger desk', find: true, restore: true });
	await grant(context, {
		to: 'Jonas Berg',
		mailbox: 'Harbour office',
		folder: 'Passenger claims',
		find: true,
		restore: false
	});
	await grant(context, {
		to: 'Tove Marstrand',
		mailbox: 'Harbour office',
		find: true,
		restore: false,
		until: '2027-06-30'
	});
}

/** A context in which a person of the office acts. */
export async function as(context: Context, name: string): Promise<Context> {
	return actingAs(context, await actorOf(context, name));
}

async function actorOf(context: Context, name: string): Promise<Actor> {
	const person = await requirePerson(context.db, name);
	return { personId: person.id, name: person.name, role: person.role };
}
