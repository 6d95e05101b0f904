import { fail } from '@sveltejs/kit';
import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { DIGEST_RHYTHMS, type DigestRhythm } from '../../../../../core/lists/digest.ts';
import { answered, attempted } from '$lib/server/web/answers.ts';

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
	set: async ({ locals, params, request }) => {
		const { value, error } = settingsSchema.validate(Object.fromEntries(await request.formData()));
		if (error) return fail(400, { message: 'Name the folder for the digests. Nothing was changed.' });
		const done = await attempted(
			locals.office.change('setDigest', { mailbox: Number(params.mailbox), ...value }, locals.who)
		);
		return 'refused' in done ? fail(done.status, { message: done.refused }) : { set: true };
	},
	takeOut: async ({ locals, params, request }) => {
		const id = Number((await request.formData()).get('id'));
		const done = await attempted(
			locals.office.change('leaveDigest', { mailboxId: Number(params.mailbox), ids: [id] }, locals.who)
		);
		return 'refused' in done ? fail(done.status, { message: done.refused }) : { takenOut: true };
	},
	make: async ({ locals }) => {
		await locals.office.start('makeDigests', undefined, locals.who);
		return { making: true };
	}
};
