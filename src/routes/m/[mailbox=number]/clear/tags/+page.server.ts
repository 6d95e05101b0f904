import { fail } from '@sveltejs/kit';
import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { TAG_COLOURS, type TagColour } from '../../../../../core/tags/colours.ts';
import { answered, attempted } from '$lib/server/web/answers.ts';
import type { TagChange } from '$lib/server/mail/index.ts';

export const load: PageServerLoad = async ({ locals, params }) => ({
	tags: await answered(locals.office.ask('listTags', { mailboxId: Number(params.mailbox) }, locals.who))
});

interface Asked {
	tag: string;
	what: 'make' | 'colour' | 'rename' | 'merge' | 'hide' | 'show' | 'remove';
	colour?: TagColour;
	to: string;
}
const askedSchema = Joi.object<Asked>({
	tag: Joi.string().trim().max(200).required().messages({ '*': 'A tag needs a name. Nothing was changed.' }),
	what: Joi.string().valid('make', 'colour', 'rename', 'merge', 'hide', 'show', 'remove').required(),
	colour: Joi.string().valid(...Object.keys(TAG_COLOURS)),
	to: Joi.string().allow('').max(200).default('')
});

function changeOf({ tag, what, colour, to }: Asked): TagChange {
	switch (what) {
		case 'make':
			return { tag, make: colour };
		case 'colour':
			return { tag, colour: colour ?? 'slate' };
		case 'rename':
			return { tag, rename: to };
		case 'merge':
			return { tag, mergeInto: to };
		case 'hide':
		case 'show':
			return { tag, hidden: what === 'hide' };
		case 'remove':
			return { tag, remove: true };
	}
}

export const actions: Actions = {
	default: async ({ locals, request }) => {
		const { value, error } = askedSchema.validate(Object.fromEntries(await request.formData()));
		if (error) return fail(400, { message: error.message });
		const changed = await attempted(locals.office.change('changeTag', changeOf(value), locals.who));
		return 'refused' in changed ? fail(changed.status, { message: changed.refused }) : { changed: value.tag };
	}
};
