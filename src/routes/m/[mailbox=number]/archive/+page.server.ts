import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import type { MessageOrder } from '../../../../core/search/orders.ts';
import { answered } from '$lib/server/web/answers.ts';
import { decideOnMessages, loadMessages, sheetFields } from '$lib/server/web/messages-page.ts';

const PAGE = 25;

interface Asked {
	q: string;
	where: 'archived' | 'everywhere' | 'binned';
	sort: MessageOrder | '';
	all: string;
	page: number;
	/** Set while the person is typing. */
	typing: string;
}

const askedSchema = Joi.object<Asked>({
	q: Joi.string().allow('').max(1000).default(''),
	where: Joi.string().valid('archived', 'everywhere', 'binned').default('everywhere'),
	all: Joi.string().allow('').default(''),
	typing: Joi.string().allow('').default(''),
	...sheetFields
});

const STATES = {
	archived: ['archived' as const],
	everywhere: ['live' as const, 'archived' as const, 'binned' as const],
	binned: ['binned' as const]
};

export const load: PageServerLoad = async ({ locals, params, url }) => {
	const { value, error } = askedSchema.validate(Object.fromEntries(url.searchParams), { stripUnknown: true });
	const q = url.searchParams.get('q')?.slice(0, 1000) ?? '';
	const asked: Asked = error ? { q, where: 'everywhere', sort: '', all: '', page: 1, typing: '' } : value;
	const { mailbox, folders } = await answered(
		locals.office.ask('mailboxFolders', { mailboxId: Number(params.mailbox), tree: 'archive' }, locals.who)
	);
	const search = {
		query: asked.q,
		mailbox: asked.all ? undefined : mailbox.id,
		typing: asked.typing !== '',
		states: STATES[asked.where]
	};
	return {
		asked,
		mailbox,
		folders,
		...(await loadMessages(locals, search, { sort: asked.sort, page: asked.page, pageSize: PAGE }))
	};
};

export const actions: Actions = { decide: decideOnMessages };
