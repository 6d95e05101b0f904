import type { LayoutServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';

export const load: LayoutServerLoad = async ({ locals }) => ({
	series: await answered(locals.office.ask('listSchedule', {}, locals.who))
});
