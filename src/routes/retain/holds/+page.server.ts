import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import type { HoldInput } from '$lib/server/retention/index.ts';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';

export const load: PageServerLoad = async ({ locals }) => {
	const { office, who } = locals;
	return {
		holds: await answered(office.ask('listedHolds', { released: true }, who)),
		tags: (await answered(office.ask('listTags', undefined, who))).map(({ name }) => name)
	};
};

const text = (most: number) => Joi.string().trim().max(most).empty('');
const wishSchema = Joi.object<HoldInput>({
	name: Joi.string().trim().allow('').max(200).default(''),
	because: Joi.string().trim().allow('').max(1_000).default(''),
	from: Joi.string().trim().allow('').max(200).default(''),
	mailbox: text(200),
	folder: text(2_000),
	correspondent: text(300),
	tag: text(200),
	since: text(10),
	before: text(10),
	query: text(1_000)
});
const releaseSchema = Joi.object<{ name: string; because: string }>({
	name: Joi.string().max(200).required(),
	because: Joi.string().trim().allow('').max(1_000).default('')
});
const BROKEN = 'The form did not come in whole. Nothing was done.';

export const actions: Actions = {
	look: formAction(
		wishSchema,
		async (wish, { locals }) => ({ covers: await locals.office.ask('tryHold', wish, locals.who) }),
		{ wrong: BROKEN }
	),
	place: formAction(
		wishSchema,
		async (wish, { locals }) => ({ placed: await locals.office.change('placeHold', wish, locals.who) }),
		{ wrong: BROKEN }
	),
	release: formAction(
		releaseSchema,
		async (wish, { locals }) => ({
			released: wish.name,
			...(await locals.office.change('releaseHold', wish, locals.who))
		}),
		{ wrong: BROKEN }
	)
};
