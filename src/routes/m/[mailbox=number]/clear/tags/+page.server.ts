import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { followedSentence } from '../../../../../core/search/renamed.ts';
import { TAG_COLOURS, type TagColour } from '../../../../../core/tags/colours.ts';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';
import type { TagChange } from '$lib/server/mail/index.ts';

export const load: PageServerLoad = async ({ locals, params }) => ({
	tags: await answered(locals.office.ask('weighTags', { mailboxId: Number(params.mailbox) }, locals.who))
});

const NAMELESS = 'A tag needs a name. Nothing was changed.';

const tag = Joi.string().trim().max(200).required();
const to = Joi.string().trim().max(200).required();
const colour = Joi.string()
	.valid(...Object.keys(TAG_COLOURS))
	.required();
const tagSchema = Joi.object<{ tag: string }>({ tag });
const colourSchema = Joi.object<{ tag: string; colour: TagColour }>({ tag, colour });
const otherSchema = Joi.object<{ tag: string; to: string }>({ tag, to });

/* Every action of the page changes one tag. */
const changing = <V>(schema: Joi.ObjectSchema<V>, changeOf: (value: V) => TagChange) =>
	formAction(
		schema,
		async (value, { locals }) => {
			const change = changeOf(value);
			const followed = await locals.office.change('changeTag', change, locals.who);
			return { changed: change.tag, said: followed && followedSentence(followed) };
		},
		{ wrong: NAMELESS }
	);

/* Removing and merging change messages, by dockets. */
const clearing = <V>(schema: Joi.ObjectSchema<V>, wishOf: (value: V) => { tag: string; mergeInto?: string }) =>
	formAction(
		schema,
		async (value, { locals }) => {
			const wish = wishOf(value);
			return { cleared: wish.tag, ...(await locals.office.change('clearTag', wish, locals.who)) };
		},
		{ wrong: NAMELESS }
	);

export const actions: Actions = {
	make: changing(colourSchema, ({ tag, colour }) => ({ tag, make: colour })),
	colour: changing(colourSchema, (change) => change),
	rename: changing(otherSchema, ({ tag, to }) => ({ tag, rename: to })),
	merge: clearing(otherSchema, ({ tag, to }) => ({ tag, mergeInto: to })),
	hide: changing(tagSchema, ({ tag }) => ({ tag, hidden: true })),
	show: changing(tagSchema, ({ tag }) => ({ tag, hidden: false })),
	remove: clearing(tagSchema, ({ tag }) => ({ tag }))
};
