import { fail } from '@sveltejs/kit';
import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered, attempted } from '$lib/server/web/answers.ts';

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

const restoreSchema = Joi.array().items(Joi.number().integer().positive()).min(1).max(10_000);

const everythingSchema = Joi.object<{ q: string; typing: string; mailbox: string; where: 'archived' | 'binned' }>({
	typing: Joi.string().allow('').required(),
	where: Joi.string().valid('archived', 'binned').required(),
	q: Joi.string().allow('').max(1000).required(),
	mailbox: Joi.string().allow('').max(200).required()
}).unknown();

export const actions: Actions = {
	restore: async ({ locals, request }) => {
		const { office, who } = locals;
		const data = await request.formData();
		const chosen = restoreSchema.validate(data.getAll('id'));
		const everything = everythingSchema.validate(Object.fromEntries(data));
		if (data.has('everything') ? everything.error : chosen.error)
			return fail(400, { message: 'Choose the messages to restore first. Nothing was done.' });
		const { q: query, typing, mailbox, where } = everything.value ?? {};
		const restored = await attempted(
			data.has('everything')
				? office.change(
						'restoreFound',
						{ query, typing: typing !== '', mailbox: mailbox || undefined, states: [where] },
						who
					)
				: office.change('restore', { ids: chosen.value as number[] }, who)
		);
		return 'refused' in restored ? fail(restored.status, { message: restored.refused }) : { restored: restored.done };
	}
};
