import { type Role, ROLES } from '../../../core/access/roles.ts';
import { type CalendarDate, readDate } from '../../../core/calendar.ts';
import { type Db, getSetting, inTransaction, putSetting } from '../database/index.ts';
import { Refusal } from '../refusal.ts';
import { findFolder, requireMailbox } from '../mail/index.ts';
import {
	addGrant,
	addGroup,
	addPerson as storePerson,
	countAdministrators,
	endGrant,
	endSessionsWithoutCodes,
	findGroup,
	findPerson,
	type Grant,
	type Group,
	listGrants,
	listGroups,
	listOwners,
	listPersons,
	makeLink,
	type Owner,
	type Person,
	type PersonRow,
	putMembers,
	putOwner,
	putPerson,
	putRecoveryCodes,
	removeGroup,
	removeSessions
} from '../access/index.ts';
import type { Action } from '../../../core/ledger/line.ts';
import { appendLedger } from '../ledger/index.ts';
import { type Context, defineUseCase, id, role, text, today } from '../context/index.ts';
import Joi from 'joi';

/** People and their grants. */
export interface PeopleView {
	people: PersonRow[];
	groups: Group[];
	grants: (Grant & { isOver: boolean })[];
	codesDemanded: boolean;
	approvalDemanded: boolean;
	owners: Owner[];
}

/** People, groups and grants. */
export async function listPeople(context: Context): Promise<PeopleView> {
	const { db } = context;
	const now = today(context);
	return {
		people: await listPersons(db),
		groups: await listGroups(db),
		grants: (await listGrants(db)).map((grant) => ({ ...grant, isOver: grant.until !== null && grant.until < now })),
		owners: await listOwners(db),
		codesDemanded: (await getSetting(db, 'administrators-use-codes')) === 'yes',
		approvalDemanded: (await getSetting(db, 'destruction-approval')) === 'yes'
	};
}

const refuse = (sentence: string) => new Refusal('bad-input', `${sentence} Nothing was changed.`);

function note(context: Context, db: Db, action: Action, details: Record<string, unknown>): Promise<number> {
	return appendLedger(db, { at: context.now(), by: context.actor, action, details });
}

/** The person of that name or address. @throws Refusal */
export async function requirePerson(db: Db, name: string): Promise<Person> {
	const found = await findPerson(db, name);
	if (!found) throw new Refusal('not-found', `There is nobody called "${name}" here. Nothing was changed.`);
	return found;
}

/** A new person, and their sign-in link: it is valid once, within a day. */
export interface Added {
	person: string;
	link: string;
}

/** Adds a person. @throws Refusal */
export async function addPerson(
	context: Context,
	input: { name: string; address: string; role: Role }
): Promise<Added> {
	const name = input.name.replace(/\s+/g, ' ').trim();
	const address = input.address.trim();
	if (name === '' || name.length > 200) throw refuse('A person needs a name.');
	if (address === '' || address.length > 200 || /\s/.test(address))
		throw refuse('A person needs an address to sign in with, without blanks.');
	if (!(input.role in ROLES)) throw refuse(`There is no role "${String(input.role)}".`);
	return inTransaction(context.db, async (db) => {
		const there = (await findPerson(db, name)) ?? (await findPerson(db, address));
		if (there) throw refuse(`${there.name} (${there.address}) is here already${there.endedAt ? ', and left' : ''}.`);
		const id = await storePerson(db, { name, address, role: input.role, madeAt: context.now().toISOString() });
		await note(context, db, 'person-added', { person: name, address, role: input.role });
		return { person: name, link: await makeLink(context, db, id) };
	});
}

/**
 * Makes a new link for a person who lost their password or authenticator: their sessions end, and codes are set up
 * anew.
 *
 * @throws Refusal
 */
export async function newLink(context: Context, input: { person: string }): Promise<Added> {
	return inTransaction(context.db, async (db) => {
		const person = await requirePerson(db, input.person);
		if (person.endedAt) throw refuse(`${person.name} left.`);
		await putPerson(db, person.id, { password: null, codeSecret: null });
		await putRecoveryCodes(db, person.id, []);
		await removeSessions(db, person.id);
		await note(context, db, 'link-made', { person: person.name });
		return { person: person.name, link: await makeLink(context, db, person.id) };
	});
}

/* One administrator has to remain. */
async function requireAnotherAdministrator(db: Db, person: Person): Promise<void> {
	if (person.role === 'administrator' && !person.endedAt && (await countAdministrators(db)) < 2)
		throw refuse(`${person.name} is the only administrator.`);
}

/* Nobody locks themselves out by a slip. */
function requireAnother({ actor }: Context, person: Person): void {
	if (actor.personId === person.id)
		throw refuse(`${person.name} cannot change their own access: another administrator does.`);
}

/** Changes another person's role, ends their access, or restores it. @throws Refusal */
export async function changePerson(
	context: Context,
	input: { person: string } & ({ role: Role } | { ended: boolean })
): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const person = await requirePerson(db, input.person);
		if ('role' in input) {
			if (!(input.role in ROLES)) throw refuse(`There is no role "${String(input.role)}".`);
			if (input.role === person.role) return;
			requireAnother(context, person);
			await requireAnotherAdministrator(db, person);
			await putPerson(db, person.id, { role: input.role });
			// what is open in a browser was opened under the former role
			await removeSessions(db, person.id);
			await note(context, db, 'person-changed', { person: person.name, role: input.role, before: person.role });
			return;
		}
		if (input.ended === (person.endedAt !== null)) return;
		requireAnother(context, person);
		if (input.ended) await requireAnotherAdministrator(db, person);
		await putPerson(db, person.id, { endedAt: input.ended ? context.now().toISOString() : null });
		await removeSessions(db, person.id);
		await note(context, db, input.ended ? 'person-ended' : 'person-changed', {
			person: person.name,
			...(input.ended ? {} : { back: true })
		});
	});
}

/** Creates a group, changes its members, or removes it. @throws Refusal */
export async function changeGroup(
	context: Context,
	input: { group: string } & ({ members: string[] } | { remove: true })
): Promise<void> {
	const name = input.group.replace(/\s+/g, ' ').trim();
	if (name === '') throw refuse('A group needs a name.');
	await inTransaction(context.db, async (db) => {
		const found = await findGroup(db, name);
		if ('remove' in input) {
			if (!found) throw refuse(`There is no group "${name}".`);
			await removeGroup(db, found.id);
			await note(context, db, 'group-changed', { group: found.name, removed: true });
			return;
		}
		const members: Person[] = [];
		for (const member of input.members) members.push(await requirePerson(db, member));
		await putMembers(
			db,
			found?.id ?? (await addGroup(db, name)),
			members.map(({ id }) => id)
		);
		await note(context, db, 'group-changed', {
			group: found?.name ?? name,
			members: members.map((member) => member.name)
		});
	});
}

/** A grant. */
export interface GrantInput {
	/** A person's name or address, or a group's name. */
	to: string;
	mailbox: string;
	/** Path of a folder, with its subfolders; undefined: the whole mailbox. */
	folder?: string | undefined;
	find: boolean;
	restore: boolean;
	/** The last day on which it is valid. */
	until?: CalendarDate | undefined;
}

/** Grants access to mail. @throws Refusal */
export async function grant(context: Context, input: GrantInput): Promise<{ id: number }> {
	if (!input.find && !input.restore) throw refuse('Grant finding, restoring, or both.');
	const until = input.until ? readDate(input.until) : undefined;
	if (input.until && (!until || until < today(context))) throw refuse(`"${input.until}" is no day from today on.`);
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const mailbox = await requireMailbox(within, input.mailbox);
		const folder = input.folder ? await findFolder(db, mailbox.id, 'mailbox', input.folder) : undefined;
		if (input.folder && !folder) throw refuse(`${mailbox.name} has no folder "${input.folder}".`);
		const group = await findGroup(db, input.to);
		const person = group ? undefined : await requirePerson(db, input.to);
		const id = await addGrant(db, {
			personId: person?.id ?? null,
			groupId: group?.id ?? null,
			mailboxId: mailbox.id,
			folderId: folder?.id ?? null,
			mayFind: input.find,
			mayRestore: input.restore,
			until: until ?? null,
			givenAt: context.now().toISOString(),
			givenBy: context.actor.name
		});
		await note(context, db, 'grant-given', {
			grant: id,
			to: group?.name ?? person?.name,
			mailbox: mailbox.name,
			folder: folder?.path,
			may: [input.find && 'find', input.restore && 'restore'].filter(Boolean).join(' and '),
			until
		});
		return { id };
	});
}

/** Ends a grant. @throws Refusal */
export async function revoke(context: Context, input: { id: number }): Promise<Grant> {
	return inTransaction(context.db, async (db) => {
		const ended = await endGrant(db, input.id, context.now().toISOString());
		if (!ended) throw new Refusal('not-found', `There is no grant ${input.id}. Nothing was changed.`);
		await note(context, db, 'grant-ended', {
			grant: ended.id,
			to: ended.to,
			mailbox: ended.mailbox,
			folder: ended.folder ?? undefined
		});
		return ended;
	});
}

/**
 * Sets the owner of a mailbox: they find and restore all its mail, and see upcoming dispositions.
 *
 * @param input.tidies they also decide on its mail, but destroy nothing
 * @throws Refusal
 */
export async function setOwner(
	context: Context,
	input: { mailbox: string; owner: string | undefined; tidies?: boolean | undefined }
): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const mailbox = await requireMailbox({ ...context, db }, input.mailbox);
		const owner = input.owner ? await requirePerson(db, input.owner) : undefined;
		const tidies = owner !== undefined && input.tidies === true;
		await putOwner(db, mailbox.id, owner?.id ?? null, tidies);
		await note(context, db, 'owner-set', { mailbox: mailbox.name, owner: owner?.name ?? 'nobody', tidies });
	});
}

/** Sets the sign-in rules, and whether a destruction needs a second person. @throws Refusal */
export async function setAccess(
	context: Context,
	input: { codesDemanded?: boolean | undefined; approvalDemanded?: boolean | undefined }
): Promise<void> {
	await inTransaction(context.db, async (db) => {
		if (input.approvalDemanded && (await countAdministrators(db)) < 2)
			throw refuse('A second person has to approve, and there is only one administrator: add another first.');
		if (input.codesDemanded !== undefined)
			await putSetting(db, 'administrators-use-codes', input.codesDemanded ? 'yes' : 'no');
		// takes effect at once, not at the next sign-in
		if (input.codesDemanded) await endSessionsWithoutCodes(db);
		if (input.approvalDemanded !== undefined)
			await putSetting(db, 'destruction-approval', input.approvalDemanded ? 'yes' : 'no');
		await note(context, db, 'access-set', {
			codes:
				input.codesDemanded === undefined
					? undefined
					: input.codesDemanded
						? 'demanded of administrators'
						: 'as each likes',
			approval:
				input.approvalDemanded === undefined ? undefined : input.approvalDemanded ? 'by a second person' : 'not wanted'
		});
	});
}

/** The use cases of this file. */
export const peopleUseCases = [
	defineUseCase({
		name: 'listPeople',
		thread: 'reader',
		right: 'oversight',
		run: listPeople
	}),
	defineUseCase({
		name: 'addPerson',
		input: () =>
			Joi.object({
				name: text.required(),
				address: text.required(),
				role: role.required()
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: addPerson
	}),
	defineUseCase({
		name: 'newLink',
		input: () => Joi.object({ person: text.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: newLink
	}),
	defineUseCase({
		name: 'changePerson',
		input: () =>
			Joi.alternatives(
				Joi.object({ person: text.required(), role: role.required() }),
				Joi.object({ person: text.required(), ended: Joi.boolean().required() })
			).required(),
		thread: 'writer',
		right: 'administrator',
		run: changePerson
	}),
	defineUseCase({
		name: 'changeGroup',
		input: () =>
			Joi.alternatives(
				Joi.object({ group: text.required(), members: Joi.array().items(text).required() }),
				Joi.object({ group: text.required(), remove: Joi.boolean().required() })
			).required(),
		thread: 'writer',
		right: 'administrator',
		run: changeGroup
	}),
	defineUseCase({
		name: 'grant',
		input: () =>
			Joi.object({
				to: text.required(),
				mailbox: text.required(),
				folder: text,
				find: Joi.boolean().required(),
				restore: Joi.boolean().required(),
				until: text
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: grant
	}),
	defineUseCase({
		name: 'revoke',
		input: () => Joi.object({ id: id.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: revoke
	}),
	defineUseCase({
		name: 'setOwner',
		input: () => Joi.object({ mailbox: text.required(), owner: text, tidies: Joi.boolean() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: setOwner
	}),
	defineUseCase({
		name: 'setAccess',
		input: () => Joi.object({ codesDemanded: Joi.boolean(), approvalDemanded: Joi.boolean() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: setAccess
	})
] as const;
