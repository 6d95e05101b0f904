import Joi from 'joi';
import { error } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';
import { formAction } from '$lib/server/web/form-action.ts';
import { decideOnOwnMessages, loadOwnMessages, readMessagesAddress } from '$lib/server/web/messages-page.ts';

const PAGE = 50;

/** The page's own part of its address. */
interface Asked {
	q: string;
	/** Set while the person is typing. */
	typing: string;
	/** The review whose mail is shown. */
	review?: number;
}
const fields = {
	q: Joi.string().allow('').max(1000).default(''),
	typing: Joi.string().allow('').default(''),
	review: Joi.number().integer().positive()
};

export const load: PageServerLoad = async ({ locals, url, parent }) => {
	const { mine } = await parent();
	if (!mine) error(404, 'No mailbox is your own here.');
	const asked = readMessagesAddress<Asked>(url.searchParams, fields);
	const search = {
		query: asked.q,
		typing: asked.typing !== '',
		mailbox: mine.id,
		states: ['live' as const, 'archived' as const, 'binned' as const],
		narrowing: { mailbox: mine.id },
		gathered: asked.review === undefined ? undefined : { of: 'review' as const, review: asked.review }
	};
	return { asked, ...(await loadOwnMessages(locals, asked, search, { pageSize: PAGE })) };
};

const one = Joi.object<{ id: number }>({ id: Joi.number().integer().positive().required() });
const on = (name: 'carryOutOwn' | 'takeBackOwn' | 'discardOwn') =>
	formAction(one, async (wish, { locals }) => {
		await locals.office.change(name, wish, locals.who);
		return { docket: wish.id };
	});

export const actions: Actions = {
	decide: decideOnOwnMessages,
	carryOut: on('carryOutOwn'),
	takeBack: on('takeBackOwn'),
	discard: on('discardOwn')
};
