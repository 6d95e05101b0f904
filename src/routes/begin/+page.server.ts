import type { PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';

export const load: PageServerLoad = async ({ locals }) => ({
	steps: await answered(locals.office.ask('firstSteps', undefined, locals.who))
});
