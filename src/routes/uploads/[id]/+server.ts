import { json } from '@sveltejs/kit';
import type { RequestHandler } from './$types';
import { answered } from '$lib/server/answers.ts';
import { finishUpload } from '$lib/server/sources/uploads.ts';

/** Everything has arrived: begins to bring it in. */
export const POST: RequestHandler = async ({ locals, params }) => {
	const { office, who } = locals;
	const { plan, path, folder } = await answered(finishUpload(office.dataFolder, params.id));
	const input = { path, mailbox: plan.mailbox, folder: plan.folder || undefined, source: plan.source, upload: folder };
	return json({
		job: await office.start('importMailbox', input, `Bringing in ${plan.source} for ${plan.mailbox}`, who)
	});
};
