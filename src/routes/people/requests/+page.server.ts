import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';
import type { Answer } from '$lib/server/people/index.ts';

export const load: PageServerLoad = async ({ locals }) => ({
	requestList: await answered(locals.office.ask('listRequests', undefined, locals.who))
});

interface GivenForm {
	request: number;
	id: number[];
	/** There are more messages than boxes: all are meant. */
	all: string;
	answer: 'grant' | 'decline';
	word: string;
	restore: string;
	until: string;
}

const schema = Joi.object<GivenForm>({
	request: Joi.number().integer().required(),
	id: Joi.array().items(Joi.number().integer().positive()).max(1_000),
	all: Joi.string().allow('').default(''),
	answer: Joi.string().valid('grant', 'decline').required(),
	word: Joi.string().allow('').max(2_000).default(''),
	restore: Joi.string().allow('').default(''),
	until: Joi.string().allow('').max(10).default('')
});

export const actions: Actions = {
	answer: formAction(
		schema,
		async ({ request, id, all, answer, word, restore, until }, { locals }) => {
			const given: Answer = {
				id: request,
				ids: all === '' ? id : undefined,
				decline: answer === 'decline',
				word,
				restore: restore !== '',
				until
			};
			const { state, person, restored } = await locals.office.change('answerRequest', given, locals.who);
			return { answered: { state, person, restored } };
		},
		{ lists: ['id'] }
	)
};
