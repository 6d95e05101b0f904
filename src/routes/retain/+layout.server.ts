import type { LayoutServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';

export const load: LayoutServerLoad = async ({ locals }) => ({
	seriesNames: await answered(locals.office.ask('listSeriesNames', undefined, locals.who))
});
