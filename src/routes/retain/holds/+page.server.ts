import { fail } from '@sveltejs/kit';
import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered, attempted } from '$lib/server/web/answers.ts';
import type { HoldWish } from '$lib/server/retention/index.ts';

export const load: PageServerLoad = async ({ locals }) => {
	const { office, who } = locals;
	return {
		holds: await answered(office.ask('listedHolds', { released: true }, who)),
		tags: (await answered(office.ask('listTags', {}, who))).map(({ name }) => name)
	};
};

const text = (most: number) => Joi.string().trim().max(most).empty('');
const wishSchema = Joi.object<HoldWish>({
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
	look: async ({ locals, request }) => {
		const { value, error } = wishSchema.validate(Object.fromEntries(await request.formData()));
		if (error) return fail(400, { message: BROKEN });
		const tried = await attempted(locals.office.ask('tryHold', value, locals.who));
		return 'refused' in tried ? fail(tried.status, { message: tried.refused }) : { covers: tried.done };
	},
	place: async ({ locals, request }) => {
		const { value, error } = wishSchema.validate(Object.fromEntries(await request.formData()));
		if (error) return fail(400, { message: BROKEN });
		const placed = await attempted(locals.office.change('placeHold', value, locals.who));
		return 'refused' in placed ? fail(placed.status, { message: placed.refused }) : { placed: placed.done };
	},
	release: async ({ locals, request }) => {
		const { value, error } = releaseSchema.validate(Object.fromEntries(await request.formData()));
		if (error) return fail(400, { message: BROKEN });
		const released = await attempted(locals.office.change('liftHold', value, locals.who));
		return 'refused' in released
			? fail(released.status, { message: released.refused })
			: { released: value.name, ...released.done };
	}
};
