import { error, json } from '@sveltejs/kit';
import Joi from 'joi';
import type { RequestHandler } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { readPackedJson } from '$lib/server/web/packed-json.ts';
import { finishUpload } from '$lib/server/intake/index.ts';

const endSchema = Joi.object<{ hashes: string[] }>({
	hashes: Joi.array().items(Joi.string().hex().length(64)).min(1).max(200_000).required()
}).required();

/** Everything has arrived: begins the import. */
export const POST: RequestHandler = async ({ locals, params, request }) => {
	const { office, who } = locals;
	const { error: wrong, value } = endSchema.validate((await readPackedJson(request)) ?? {});
	if (wrong) error(400, `The upload cannot end: ${wrong.message}. Nothing was imported yet.`);
	const { plan, path, folder } = await answered(finishUpload(office.dataFolder, params.id, value.hashes));
	const input = { path, mailbox: plan.mailbox, folder: plan.folder || undefined, source: plan.source, upload: folder };
	return json({
		job: await office.start('importMailbox', input, who)
	});
};
