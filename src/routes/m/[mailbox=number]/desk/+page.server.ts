import type { Actions, PageServerLoad } from './$types';
import { deskActions, loadDesk } from '$lib/server/web/desk-page.ts';

export const load: PageServerLoad = (event) => loadDesk(event);

export const actions: Actions = {
	decide: deskActions.decide,
	pile: deskActions.pile,
	await: deskActions.await,
	close: deskActions.close,
	lists: deskActions.lists
};
