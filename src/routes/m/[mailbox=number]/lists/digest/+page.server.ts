import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { DIGEST_RHYTHMS, type DigestRhythm } from '../../../../../core/lists/digest.ts';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';

export const load: PageServerLoad = async ({ locals, params }) => {
	const mailboxId = Number(params.mailbox);
	const { office, who } = locals;
	const { mailbox, folders } = await answered(office.ask('mailboxFolders', { mailboxId, tree: 'mailbox' }, who));
	return {
		mailbox,
		folders: folders.map(({ path }) => path),
		lists: (await answered(office.ask('listLists', { mailboxId, show: 'digest', limit: 1_000 }, who))).lists
	};
};

const settingsSchema = Joi.object<{ every: DigestRhythm; folder: string }>({
	every: Joi.string()
		.valid(...DIGEST_RHYTHMS)
		.required(),
	folder: Joi.string().trim().max(2000).required()
});

export const actions: Actions = {
	set: formAction(
		settingsSchema,
		async (settings, { locals, params }) => {
			await locals.office.change('setDigest', { mailbox: Number(params.mailbox), ...settings }, locals.who);
			return { set: true };
		},
		{ wrong: 'Name the folder for the digests. Nothing was changed.' }
	),
	takeOut: formAction(
		Joi.object<{ id: number }>({ id: Joi.number().integer().positive().required() }),
		async ({ id }, { locals, params }) => {
			await locals.office.change('removeFromDigest', { mailboxId: Number(params.mailbox), ids: [id] }, locals.who);
			return { takenOut: true };
		}
	),
	make: formAction(Joi.object({}), async (_form, { locals }) => {
		await locals.office.start('makeDigests', undefined, locals.who);
		return { making: true };
	})
};
