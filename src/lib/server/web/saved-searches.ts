import Joi from 'joi';
import type { Suggestion } from '../find/index.ts';
import { answered } from './answers.ts';
import { formAction } from './form-action.ts';

/** What stands beside a search box: a person's saved searches, and corrections if nothing is found. */
export async function searchHelp(
	{ office, who }: Pick<App.Locals, 'office' | 'who'>,
	query: string,
	found: number | undefined
): Promise<{ saved: { id: number; name: string; question: string }[]; nearly: Suggestion[] }> {
	const isNothing = found === 0 && query.trim() !== '';
	return {
		saved: await answered(office.ask('listSaved', undefined, who)),
		nearly: isNothing
			? (await answered(office.ask('suggest', { text: query }, who))).filter(({ of }) => of === 'word')
			: []
	};
}

/** The part of an address that is saved as a search: without the page, and as after Enter. */
export function savedQuestion(url: URL): string {
	const asked = new URLSearchParams(url.searchParams);
	for (const name of ['page', 'typing']) asked.delete(name);
	return asked.toString();
}

/** The actions on saved searches. */
export const savedSearches = {
	save: formAction(
		Joi.object<{ name: string; question: string }>({
			name: Joi.string().allow('').max(100).required(),
			question: Joi.string().allow('').max(2_000).required()
		}),
		async (wish, { locals }) => {
			await locals.office.change('changeSaved', wish, locals.who);
			return { saved: wish.name };
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
