import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { type Role, ROLES } from '../../core/access/roles.ts';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';

export const load: PageServerLoad = async ({ locals }) => ({
	view: await answered(locals.office.ask('listPeople', undefined, locals.who))
});

const name = Joi.string().trim().allow('').max(200).required();
const role = Joi.string()
	.valid(...Object.keys(ROLES))
	.required();

interface GrantForm {
	to: string;
	mailbox: string;
	folder: string;
	find: string;
	restore: string;
	until: string;
}
const ticked = Joi.string().allow('').default('');

/* The link uses the host name that the administrator uses. */
const linkOf = (url: URL, token: string) => `${url.origin}/come-in/${token}`;

export const actions: Actions = {
	add: formAction(
		Joi.object<{ name: string; address: string; role: Role }>({ name, address: name, role }),
		async (wish, { locals, url }) => {
			const { person, link } = await locals.office.change('addPerson', wish, locals.who);
			return { link: { person, address: linkOf(url, link) } };
		}
	),
	link: formAction(Joi.object<{ person: string }>({ person: name }), async (wish, { locals, url }) => {
		const { person, link } = await locals.office.change('newLink', wish, locals.who);
		return { link: { person, address: linkOf(url, link) } };
	}),
	role: formAction(Joi.object<{ person: string; role: Role }>({ person: name, role }), async (wish, { locals }) => {
		await locals.office.change('changePerson', wish, locals.who);
		return { set: `${wish.person} now has the role ${wish.role}.` };
	}),
	end: formAction(
		Joi.object<{ person: string; ended: boolean }>({ person: name, ended: Joi.boolean().required() }),
		async (wish, { locals }) => {
			await locals.office.change('changePerson', wish, locals.who);
			return { set: wish.ended ? `${wish.person} can no longer sign in.` : `${wish.person} can sign in again.` };
		}
	),
	group: formAction(
		Joi.object<{ group: string; member: string[]; remove?: string }>({
			group: name,
			member: Joi.array().items(Joi.string().max(200)).max(1_000),
			remove: Joi.string()
		}),
		async ({ group, member, remove }, { locals }) => {
			await locals.office.change(
				'changeGroup',
				remove ? { group, remove: true } : { group, members: member },
				locals.who
			);
			return { set: remove ? `The group ${group} was removed, with its grants.` : `The group ${group} was saved.` };
		},
		{ lists: ['member'] }
	),
	grant: formAction(
		Joi.object<GrantForm>({
			to: name,
			mailbox: name,
			folder: Joi.string().trim().allow('').max(1_000).default(''),
			find: ticked,
			restore: ticked,
			until: Joi.string().allow('').max(10).default('')
		}),
		async ({ to, mailbox, folder, find, restore, until }, { locals }) => {
			const wish = {
				to,
				mailbox,
				folder: folder || undefined,
				find: find !== '',
				restore: restore !== '',
				until: until || undefined
			};
			await locals.office.change('grant', wish, locals.who);
			const rights = [...(wish.find ? ['find'] : []), ...(wish.restore ? ['restore'] : [])].join(' and ');
			return { set: `${to} may now ${rights} mail of ${[mailbox, folder].filter(Boolean).join('/')}.` };
		}
	),
	revoke: formAction(
		Joi.object<{ grant: number }>({ grant: Joi.number().integer().required() }),
		async ({ grant }, { locals }) => {
			const ended = await locals.office.change('revoke', { id: grant }, locals.who);
			return { set: `${ended.to} no longer has the grant in ${ended.mailbox}.` };
		}
	),
	own: formAction(
		Joi.object<{ mailbox: string; owner: string; tidies: string }>({
			mailbox: name,
			owner: Joi.string().allow('').max(200).required(),
			tidies: ticked
		}),
		async ({ mailbox, owner, tidies }, { locals }) => {
			const wish = { mailbox, owner: owner || undefined, tidies: tidies !== '' };
			await locals.office.change('setOwner', wish, locals.who);
			return { set: owner ? `The owner of ${mailbox} is ${owner}.` : `${mailbox} has no owner.` };
		}
	),
	access: formAction(
		Joi.object<{ codes: string; approval: string }>({ codes: ticked, approval: ticked }),
		async ({ codes, approval }, { locals }) => {
			await locals.office.change(
				'setAccess',
				{ codesDemanded: codes !== '', approvalDemanded: approval !== '' },
				locals.who
			);
			return { set: 'Saved.' };
		}
	)
};
