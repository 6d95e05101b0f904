import type { PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';

export const load: PageServerLoad = async ({ locals }) => ({
	compared: await answered(locals.office.ask('compareMailboxes', undefined, locals.who))
});
