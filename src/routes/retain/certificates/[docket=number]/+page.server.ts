import type { PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';

const SHOWN = 1_000;

export const load: PageServerLoad = async ({ locals, params }) => ({
	certificate: await answered(
		locals.office.ask('readCertificate', { docketId: Number(params.docket), limit: SHOWN }, locals.who)
	)
});
