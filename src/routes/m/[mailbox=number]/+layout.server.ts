import type { LayoutServerLoad } from './$types';
import { answered } from '$lib/server/answers.ts';

const DRAFTS_SHOWN = 5;

export const load: LayoutServerLoad = async ({ locals, params }) => {
	const mailboxId = Number(params.mailbox);
	const { office, who } = locals;
	const recent = await answered(office.ask('openDrafts', { mailboxId, limit: DRAFTS_SHOWN }, who));
	return {
		mailboxId,
		docket: (await answered(office.ask('currentDocket', { mailboxId }, who))) ?? null,
		drafts: recent.map(({ id, name, messages }) => ({ id, name, messages }))
	};
};
