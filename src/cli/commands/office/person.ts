import { type Role, ROLES } from '../../../core/access/roles.ts';
import {
	addPerson,
	changeGroup,
	changePerson,
	grant,
	listPeople,
	newLink,
	revoke,
	setOwner
} from '$lib/server/people/index.ts';
import { command, group, oneOf, readIds } from '../../command.ts';
import { say, table } from '../../terminal.ts';

/* `person`: people who may sign in, and what they may find and restore. */
const people = group('person', 'add people, and grant what they may find and restore');

const path = (link: string) => `/come-in/${link}`;

command<{ address: string; role: string }>(
	'add <name>',
	'add a person; prints the link with which they set their password',
	(c) =>
		c
			.requiredOption('--address <address>', 'their sign-in address')
			.option('--role <role>', Object.keys(ROLES).join(', '), 'colleague'),
	async (context, { address, role }, name = '') => {
		const added = await addPerson(context, {
			name,
			address,
			role: oneOf('--role', Object.keys(ROLES) as Role[], role)
		});
		return {
			result: { person: added.person, link: path(added.link) },
			lines: [`${added.person} comes in once, within a day, by the address of Kovrel with ${path(added.link)}`]
		};
	},
	people
);

command<object>(
	'link <person>',
	'make a new link for somebody who lost their password or their codes; their sessions end',
	(c) => c,
	async (context, _options, person = '') => {
		const made = await newLink(context, { person });
		return {
			result: { person: made.person, link: path(made.link) },
			lines: [`${made.person} comes in once, within a day, by the address of Kovrel with ${path(made.link)}`]
		};
	},
	people
);

command<{ role?: string; end?: boolean; back?: boolean }>(
	'set <person>',
	'change the role of a person, end their access, or restore it',
	(c) =>
		c
			.option('--role <role>', Object.keys(ROLES).join(', '))
			.option('--end', 'end their access')
			.option('--back', 'restore their access'),
	async (context, { role, end, back }, person = '') => {
		if (role !== undefined)
			await changePerson(context, { person, role: oneOf('--role', Object.keys(ROLES) as Role[], role) });
		if (end || back) await changePerson(context, { person, ended: end === true });
		return { result: { person, role, ended: end ?? false }, lines: [`${person} is set.`] };
	},
	people
);

command<{ mailbox: string; folder?: string; find?: boolean; restore?: boolean; until?: string }>(
	'grant <to>',
	'let a person or a group find mail, restore it, or both',
	(c) =>
		c
			.requiredOption('--mailbox <name>', 'in this mailbox')
			.option('--folder <path>', 'only in this folder and those below it')
			.option('--find', 'they may find and read it')
			.option('--restore', 'they may restore it')
			.option('--until <date>', 'last day of the grant'),
	async (context, { mailbox, folder, find = false, restore = false, until }, to = '') => {
		const { id } = await grant(context, { to, mailbox, folder, find, restore, until });
		return {
			result: { grant: id, to, mailbox, folder, find, restore, until },
			lines: [`Granted to ${to}, number ${id}.`]
		};
	},
	people
);

command<object>(
	'revoke <grant>',
	'end a grant, by its number',
	(c) => c,
	async (context, _options, number = '') => {
		const ended = await revoke(context, { id: readIds([number])[0] as number });
		return { result: { grant: ended.id, to: ended.to, mailbox: ended.mailbox }, lines: [`${ended.to}: ended.`] };
	},
	people
);

command<object>(
	'group <group> [members...]',
	'set the members of a group; a new group is made',
	(c) => c,
	async (context, _options, name = '', ...members) => {
		await changeGroup(context, { group: name, members });
		return { result: { group: name, members }, lines: [`${name}: ${members.join(', ') || 'nobody'}.`] };
	},
	people
);

command<{ owner?: string; tidies?: boolean }>(
	'own <mailbox>',
	'set the owner of a mailbox',
	(c) =>
		c
			.option('--owner <person>', 'the owner (without: no owner)')
			.option('--tidies', 'the owner decides on its mail, but destroys nothing'),
	async (context, { owner, tidies = false }, mailbox = '') => {
		await setOwner(context, { mailbox, owner, tidies });
		return {
			result: { mailbox, owner: owner ?? null, tidies: owner !== undefined && tidies },
			lines: [`The owner of ${mailbox} is ${owner ?? 'nobody'}${tidies ? ', who may tidy it' : ''}.`]
		};
	},
	people
);

command<object>(
	'list',
	'show people, groups and grants',
	(c) => c,
	async (context) => {
		const view = await listPeople(context);
		if (view.people.length === 0) say('Nobody signs in yet: the first start prints a link.');
		return {
			result: view,
			lines: [
				...table(
					view.people.map(({ name, address, role, endedAt, hasPassword }) => [
						`${name} <${address}>`,
						endedAt ? 'left' : role,
						hasPassword ? '' : 'has not come in yet'
					])
				),
				...view.grants.map(
					({ id, to, mailbox, folder, mayFind, mayRestore, until, isOver }) =>
						`${id}  ${to}: ${[mayFind && 'find', mayRestore && 'restore'].filter(Boolean).join(' and ')} in ${mailbox}${folder ? `/${folder}` : ''}${until ? ` until ${until}` : ''}${isOver ? ' (over)' : ''}`
				)
			]
		};
	},
	people
);
