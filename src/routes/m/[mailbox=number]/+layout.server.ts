import type { LayoutServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';

const OTHERS_SHOWN = 6;

export const load: LayoutServerLoad = async ({ locals, params }) => {
	const mailboxId = Number(params.mailbox);
	const { office, who } = locals;
	const { docket, certificate, server, others } = await answered(
		office.ask('showSlip', { mailboxId, others: OTHERS_SHOWN }, who)
	);
	return { mailboxId, docket: docket ?? null, certificate: certificate ?? null, server, others };
};
