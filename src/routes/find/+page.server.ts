import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';
import { loadFound, readMessagesAddress } from '$lib/server/web/messages-page.ts';
import { narrowingOf } from '$lib/server/web/narrowing-address.ts';
import { selectedMailboxes } from '$lib/server/web/selection-address.ts';
import { savedQuestion, savedSearches, searchHelp } from '$lib/server/web/saved-searches.ts';

const PAGE = 25;

/** The page's own part of its address. */
interface Asked {
	q: string;
	/** Set while the person is typing. */
	typing: string;
}

const fields = {
	q: Joi.string().allow('').max(1000).default(''),
	typing: Joi.string().allow('').default('')
};

export const load: PageServerLoad = async ({ locals, url }) => {
	const asked = readMessagesAddress<Asked>(url.searchParams, fields);
	const selected = selectedMailboxes(url.searchParams);
	const isAsked = asked.q.trim() !== '' || Object.values(narrowingOf(asked)).some((value) => value !== undefined);
	const search = {
		query: asked.q,
		mailboxIds: selected,
		typing: asked.typing !== '',
		states: ['live' as const, 'archived' as const, 'binned' as const]
	};
	const { sheet, refused } = isAsked
		? await loadFound(locals, asked, search, { pageSize: PAGE })
		: { sheet: undefined, refused: undefined };
	return {
		asked,
		selected,
		question: savedQuestion(url),
		sheet,
		refused,
		reach: await answered(locals.office.ask('myReach', undefined, locals.who)),
		...(await searchHelp(locals, asked.q, sheet?.total))
	};
};

const ids = Joi.array().items(Joi.number().integer().positive()).min(1).max(10_000).required();

export const actions: Actions = {
	restore: formAction(
		Joi.object<{ id: number[] }>({ id: ids }),
		async ({ id }, { locals }) => ({ restored: await locals.office.change('restore', { ids: id }, locals.who) }),
		{ lists: ['id'] }
	),
	mine: formAction(
		Joi.object<{ id: number[]; own: number }>({ id: ids, own: Joi.number().integer().required() }),
		async ({ id, own }, { locals }) => ({
			mine: await locals.office.change('copyToOwnMailbox', { ids: id, mailboxId: own }, locals.who)
		}),
		{ lists: ['id'] }
	),
	ask: formAction(
		Joi.object<{ id: number[]; because: string }>({ id: ids, because: Joi.string().allow('').max(2_000).required() }),
		async ({ id, because }, { locals }) => ({
			asked: (await locals.office.change('makeRequest', { ids: id, because }, locals.who)).length
		}),
		{ lists: ['id'] }
	),
	...savedSearches
};
