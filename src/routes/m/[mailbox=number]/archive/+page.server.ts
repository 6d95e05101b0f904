import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered, attempted } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';

const PAGE = 25;

const ORDERS = ['relevance', 'newest', 'oldest', 'largest', 'sender', 'subject', 'importance', 'attachments'] as const;

interface Asked {
	q: string;
	where: 'archived' | 'everywhere' | 'binned';
	sort: (typeof ORDERS)[number] | '';
	all: string;
	page: number;
	/** Set while the person is still writing. */
	typing: string;
}

const askedSchema = Joi.object<Asked>({
	q: Joi.string().allow('').max(1000).default(''),
	where: Joi.string().valid('archived', 'everywhere', 'binned').default('everywhere'),
	sort: Joi.string()
		.valid(...ORDERS, '')
		.default(''),
	all: Joi.string().allow('').default(''),
	typing: Joi.string().allow('').default(''),
	page: Joi.number().integer().min(1).max(10_000).default(1)
});

const STATES = { archived: ['archived'], everywhere: ['live', 'archived', 'binned'], binned: ['binned'] } as const;

export const load: PageServerLoad = async ({ locals, params, url }) => {
	const { value, error } = askedSchema.validate(Object.fromEntries(url.searchParams), { stripUnknown: true });
	const asked: Asked = error
		? {
				q: url.searchParams.get('q')?.slice(0, 1000) ?? '',
				where: 'everywhere',
				sort: '',
				all: '',
				page: 1,
				typing: ''
			}
		: value;
	const { mailbox, folders } = await answered(
		locals.office.ask('mailboxFolders', { mailboxId: Number(params.mailbox), tree: 'archive' }, locals.who)
	);
	const found = await attempted(
		locals.office.ask(
			'find',
			{
				query: asked.q,
				mailbox: asked.all ? undefined : mailbox.name,
				typing: asked.typing !== '',
				states: [...STATES[asked.where]],
				sort: asked.sort || undefined,
				limit: PAGE,
				offset: (asked.page - 1) * PAGE
			},
			locals.who
		)
	);
	return {
		asked,
		mailbox,
		folders,
		pageSize: PAGE,
		found: 'done' in found ? found.done : null,
		refused: 'refused' in found ? found.refused : undefined
	};
};

interface Restored {
	id: number[];
	/** Set: everything that this search finds is meant. */
	everything?: string;
	q: string;
	typing: string;
	mailbox: string;
	where: 'archived' | 'binned';
}
const restoredSchema = Joi.object<Restored>({
	id: Joi.array().items(Joi.number().integer().positive()).max(10_000).required(),
	everything: Joi.string().allow(''),
	q: Joi.string().allow('').max(1000).default(''),
	typing: Joi.string().allow('').default(''),
	mailbox: Joi.string().allow('').max(200).default(''),
	where: Joi.string().valid('archived', 'binned')
})
	.when(Joi.object({ everything: Joi.exist() }).unknown(), {
		then: Joi.object({ where: Joi.required() }),
		otherwise: Joi.object({ id: Joi.array().min(1) })
	})
	.required();

export const actions: Actions = {
	restore: formAction(
		restoredSchema,
		async ({ id: ids, everything, q: query, typing, mailbox, where }, { locals: { office, who } }) => {
			const found = { query, typing: typing !== '', mailbox: mailbox || undefined, states: [where] };
			const restored = await (everything === undefined
				? office.change('restore', { ids }, who)
				: office.change('restoreFound', found, who));
			return { restored };
		},
		{ lists: ['id'], wrong: 'Select the messages to restore first. Nothing was done.' }
	)
};
