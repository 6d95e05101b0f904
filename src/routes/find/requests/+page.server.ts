import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';

export const load: PageServerLoad = async ({ locals }) => {
	const { office, who } = locals;
	const requests = await answered(office.ask('myRequests', undefined, who));
	// shown as new once
	if (requests.some(({ state, noticedAt }) => state !== 'open' && noticedAt === null))
		await office.change('noticeAnswers', undefined, who);
	return { requests, reach: await answered(office.ask('myReach', undefined, who)) };
};

const text = (most: number) => Joi.string().trim().allow('').max(most);

export const actions: Actions = {
	ask: formAction(
		Joi.object<{ mailbox: string; folder?: string; because: string }>({
			mailbox: text(200).required(),
			folder: text(1_000).empty(''),
			because: text(2_000).required()
		}),
		async (wish, { locals }) => ({ asked: (await locals.office.change('makeRequest', wish, locals.who)).length })
	)
};
