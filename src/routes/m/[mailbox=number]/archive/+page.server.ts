import { fail } from '@sveltejs/kit';
import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered, attempted } from '$lib/server/answers.ts';

const PAGE = 25;

interface Asked {
	q: string;
	where: 'archived' | 'everywhere' | 'binned';
	sort: 'relevance' | 'newest' | 'oldest' | 'largest' | 'sender' | 'subject' | '';
	all: string;
	page: number;
}

const askedSchema = Joi.object<Asked>({
	q: Joi.string().allow('').max(1000).default(''),
	where: Joi.string().valid('archived', 'everywhere', 'binned').default('everywhere'),
	sort: Joi.string().valid('relevance', 'newest', 'oldest', 'largest', 'sender', 'subject', '').default(''),
	all: Joi.string().allow('').default(''),
	page: Joi.number().integer().min(1).max(10_000).default(1)
});

const STATES = { archived: ['archived'], everywhere: ['live', 'archived', 'binned'], binned: ['binned'] } as const;

export const load: PageServerLoad = async ({ locals, params, url }) => {
	const { value, error } = askedSchema.validate(Object.fromEntries(url.searchParams), { stripUnknown: true });
	const asked: Asked = error
		? { q: url.searchParams.get('q')?.slice(0, 1000) ?? '', where: 'everywhere', sort: '', all: '', page: 1 }
		: value;
	const { mailbox } = await answered(
		locals.office.ask('weighMailbox', { mailboxId: Number(params.mailbox) }, locals.who)
	);
	const found = await attempted(
		locals.office.ask(
			'find',
			{
				query: asked.q,
				mailbox: asked.all ? undefined : mailbox.name,
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
		pageSize: PAGE,
		found: 'done' in found ? found.done : null,
		refused: 'refused' in found ? found.refused : undefined
	};
};

const restoreSchema = Joi.array().items(Joi.number().integer().positive()).min(1).max(10_000);

export const actions: Actions = {
	restore: async ({ locals, request }) => {
		const { error, value } = restoreSchema.validate((await request.formData()).getAll('id'));
		if (error) return fail(400, { message: 'Choose the messages to restore first. Nothing was done.' });
		const restored = await attempted(locals.office.change('restore', { ids: value as number[] }, locals.who));
		return 'refused' in restored ? fail(restored.status, { message: restored.refused }) : { restored: restored.done };
	}
};
