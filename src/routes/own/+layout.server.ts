import type { LayoutServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';

export const load: LayoutServerLoad = async ({ locals, url }) => {
	const { own } = await answered(locals.office.ask('myReach', undefined, locals.who));
	const asked = url.searchParams.get('mailbox');
	return { own, mine: (asked === null ? undefined : own.find(({ id }) => String(id) === asked)) ?? own[0] };
};
