import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { savedQuestion, savedSearches, searchHelp } from '$lib/server/web/saved-searches.ts';
import { decideOnMessages, loadMessages, readMessagesAddress } from '$lib/server/web/messages-page.ts';

const PAGE = 25;

/** The page's own part of its address. */
interface Asked {
	q: string;
	where: keyof typeof STATES;
	/** Set to find in all mailboxes. */
	all: string;
	/** Set while the person is typing. */
	typing: string;
}

const STATES = {
	archived: ['archived' as const],
	everywhere: ['live' as const, 'archived' as const, 'binned' as const],
	binned: ['binned' as const]
};

const fields = {
	q: Joi.string().allow('').max(1000).default(''),
	where: Joi.string()
		.valid(...Object.keys(STATES))
		.default('everywhere'),
	all: Joi.string().allow('').default(''),
	typing: Joi.string().allow('').default('')
};

export const load: PageServerLoad = async ({ locals, params, url }) => {
	const { office, who } = locals;
	const asked = readMessagesAddress<Asked>(url.searchParams, fields);
	const { mailbox, folders } = await answered(
		office.ask('mailboxFolders', { mailboxId: Number(params.mailbox), tree: 'archive' }, who)
	);
	const search = {
		query: asked.q,
		mailbox: asked.all ? undefined : mailbox.id,
		typing: asked.typing !== '',
		states: STATES[asked.where]
	};
	const found = await loadMessages(locals, asked, search, { pageSize: PAGE });
	return {
		asked,
		question: savedQuestion(url),
		mailbox,
		folders,
		...found,
		...(await searchHelp(locals, asked.q, found.sheet?.total))
	};
};

export const actions: Actions = { decide: decideOnMessages, ...savedSearches };
