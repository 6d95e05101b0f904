import type { PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';

const IMPORTS_SHOWN = 20;
const ODDITIES_SHOWN = 100;

export const load: PageServerLoad = async ({ locals, url }) => {
	const { office, who } = locals;
	const report = Number(url.searchParams.get('report') ?? '');
	return {
		imports: await answered(office.ask('listImports', { limit: IMPORTS_SHOWN }, who)),
		report:
			report > 0
				? {
						importId: report,
						oddities: await answered(office.ask('listOddities', { importId: report, limit: ODDITIES_SHOWN }, who))
					}
				: null
	};
};
