import { error } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { decideOnMessages, loadMessages, readMessagesAddress } from '$lib/server/web/messages-page.ts';

const PAGE = 50;

export const load: PageServerLoad = async ({ locals, params, url }) => {
	const reviews = await answered(locals.office.ask('listedReviews', undefined, locals.who));
	const review = reviews.find(({ id }) => id === Number(params.review));
	if (!review) error(404, 'There is no such review.');
	const search = {
		query: '',
		mailbox: review.mailboxId,
		states: ['live' as const, 'archived' as const, 'binned' as const],
		narrowing: { mailbox: review.mailboxId },
		gathered: { of: 'review' as const, review: review.id }
	};
	return {
		review,
		...(await loadMessages(locals, readMessagesAddress(url.searchParams), search, { sort: 'due', pageSize: PAGE }))
	};
};

export const actions: Actions = { decide: decideOnMessages };
