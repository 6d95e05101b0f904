import { error } from '@sveltejs/kit';
import Joi from 'joi';
import type { RequestHandler } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { download } from '$lib/server/web/download.ts';

interface Wish {
	format: 'eml' | 'mbox' | 'maildir';
	mailbox?: string;
	q?: string;
	typing?: string;
	where: 'archived' | 'everywhere' | 'binned';
	id?: number[];
}

const schema = Joi.object<Wish>({
	format: Joi.string().valid('eml', 'mbox', 'maildir').required(),
	mailbox: Joi.string().max(200).empty(''),
	q: Joi.string().max(1000).allow('').default(''),
	typing: Joi.string().allow(''),
	where: Joi.string().valid('archived', 'everywhere', 'binned').default('everywhere'),
	id: Joi.array().items(Joi.number().integer().positive()).max(10_000)
});

const STATES = { archived: ['archived'], everywhere: ['live', 'archived', 'binned'], binned: ['binned'] } as const;

/** Messages as one zip file, with an index: the selected ones, else all that a search finds. */
export const POST: RequestHandler = async ({ locals, request }) => {
	const data = await request.formData();
	const ids = data.getAll('id');
	const { value, error: wrong } = schema.validate({
		...Object.fromEntries([...data].filter(([name]) => name !== 'id')),
		...(ids.length > 0 ? { id: ids } : {})
	});
	if (wrong) error(400, 'That cannot be exported. Nothing was written.');
	const { format, mailbox, q, typing, where, id } = value;
	const content = await answered(
		locals.office.stream(
			'exportZip',
			{ format, mailbox, ...(id ? { ids: id } : { query: q, typing: Boolean(typing), states: [...STATES[where]] }) },
			locals.who
		)
	);
	return download({ name: `${mailbox ?? 'Mail'} ${format}.zip`, content });
};
