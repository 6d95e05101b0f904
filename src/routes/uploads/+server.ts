import { error, json } from '@sveltejs/kit';
import Joi from 'joi';
import type { RequestHandler } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { readPackedJson } from '$lib/server/web/packed-json.ts';
import { beginUpload, type UploadPlan } from '$lib/server/intake/index.ts';

const planSchema = Joi.object<UploadPlan>({
	mailbox: Joi.string().trim().min(1).max(200).required(),
	folder: Joi.string().trim().allow('').max(1000).required(),
	source: Joi.string().max(1000).required(),
	files: Joi.array()
		.items(
			Joi.object({
				path: Joi.string().min(1).max(2000).required(),
				bytes: Joi.number().integer().min(0).required(),
				modified: Joi.number().integer().min(0).max(8_000_000_000_000)
			})
		)
		.min(1)
		.max(200_000)
		.required()
		.messages({ 'array.max': 'more than 200,000 files: import such a folder at the terminal, or as a zip' })
});

/** Begins an upload. */
export const POST: RequestHandler = async ({ locals, request }) => {
	const { error: wrong, value } = planSchema.validate(await readPackedJson(request));
	if (wrong || value === undefined)
		error(400, `The upload cannot begin: ${wrong?.message ?? 'nothing was said about it'}.`);
	return json({ id: await answered(beginUpload(locals.office.dataFolder, value)) });
};
