import type { PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';

export const load: PageServerLoad = async ({ locals }) => ({
	certificates: await answered(locals.office.ask('listedCertificates', { limit: 500 }, locals.who))
});
