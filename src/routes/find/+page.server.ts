import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import type { Narrowing } from '../../core/search/narrowing.ts';
import { answered, attempted } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';
import { narrowingFields, narrowingOf } from '$lib/server/web/narrowing-address.ts';

const PAGE = 25;
const STATES: ('live' | 'archived' | 'binned')[] = ['live', 'archived', 'binned'];

interface Asked extends Narrowing {
	q: string;
	sort: '' | 'relevance' | 'newest' | 'oldest' | 'largest' | 'sender' | 'subject';
	/** Set while the person is typing. */
	typing: string;
	page: number;
}

const askedSchema = Joi.object<Asked>({
	q: Joi.string().allow('').max(1000).default(''),
	sort: Joi.string().valid('', 'relevance', 'newest', 'oldest', 'largest', 'sender', 'subject').default(''),
	typing: Joi.string().allow('').default(''),
	page: Joi.number().integer().min(1).max(10_000).default(1),
	...narrowingFields
});

export const load: PageServerLoad = async ({ locals, url }) => {
	const { office, who } = locals;
	const read = askedSchema.validate(Object.fromEntries(url.searchParams), { stripUnknown: true });
	const asked: Asked = read.error
		? { q: url.searchParams.get('q')?.slice(0, 1000) ?? '', sort: '', typing: '', page: 1 }
		: read.value;
	const narrowing = narrowingOf(asked);
	const isAsked = asked.q.trim() !== '' || Object.values(narrowing).some((value) => value !== undefined);
	const wish = { query: asked.q, typing: asked.typing !== '', states: STATES, narrowing };
	// two threads answer in parallel
	const [found, narrowed] = isAsked
		? await Promise.all([
				attempted(
					office.ask(
						'find',
						{ ...wish, sort: asked.sort || undefined, limit: PAGE, offset: (asked.page - 1) * PAGE },
						who
					)
				),
				attempted(office.ask('narrow', wish, who))
			])
		: [undefined, undefined];
	const isFound = found !== undefined && 'done' in found;
	const nothing = isFound && found.done.total === 0;
	return {
		asked,
		narrowing,
		pageSize: PAGE,
		found: isFound ? found.done : null,
		refused: found && 'refused' in found ? found.refused : undefined,
		choices: narrowed && 'done' in narrowed ? narrowed.done : null,
		// corrections, if nothing is found
		nearly: nothing
			? (await answered(office.ask('suggest', { text: asked.q }, who))).filter(({ of }) => of === 'word')
			: [],
		reach: await answered(office.ask('myReach', undefined, who)),
		saved: await answered(office.ask('listSaved', undefined, who))
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
	keep: formAction(
		Joi.object<{ name: string; question: string }>({
			name: Joi.string().allow('').max(100).required(),
			question: Joi.string().allow('').max(2_000).required()
		}),
		async (wish, { locals }) => {
			await locals.office.change('changeSaved', wish, locals.who);
			return { kept: wish.name };
		}
	),
	forget: formAction(
		Joi.object<{ saved: number }>({ saved: Joi.number().integer().required() }),
		async ({ saved }, { locals }) => {
			await locals.office.change('changeSaved', { forget: saved }, locals.who);
			return { forgotten: true };
		}
	)
};
