import type { PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';

export const load: PageServerLoad = async ({ locals }) => ({
	policy: await answered(locals.office.ask('readPolicy', undefined, locals.who))
});
