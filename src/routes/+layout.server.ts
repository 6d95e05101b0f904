import type { LayoutServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';

const JOBS_SHOWN = 12;

/* What the frame of those who look after the mailboxes shows; a colleague's has none of it. */
async function office({ office, who }: App.Locals) {
	const isAdministrator = who.role === 'administrator';
	const jobs = isAdministrator ? await answered(office.ask('listJobs', { limit: JOBS_SHOWN }, who)) : [];
	return {
		noBackup: await office.ask('isBackupWanted', undefined, who),
		dueSoon: await office.ask('countDueSoon', undefined, who),
		holds: await office.ask('countHolds', undefined, who),
		approvalDemanded: await office.ask('isApprovalDemanded', undefined, who),
		requests: isAdministrator ? await office.ask('countRequests', undefined, who) : 0,
		mailboxes: await answered(office.ask('listWeights', undefined, who)),
		jobs: jobs.map(({ id, label, state, error, endedAt, noticedAt, useCase, result }) => ({
			id,
			label,
			state,
			error,
			endedAt,
			noticedAt,
			useCase,
			result
		}))
	};
}

const NOTHING: Awaited<ReturnType<typeof office>> = {
	noBackup: false,
	dueSoon: 0,
	holds: 0,
	approvalDemanded: false,
	requests: 0,
	mailboxes: [],
	jobs: []
};

export const load: LayoutServerLoad = async ({ locals }) => {
	const who = locals.who as App.Locals['who'] | undefined;
	if (!who || locals.visitor?.stage !== 'whole')
		return { person: null, demo: false, today: '', answers: 0, ...NOTHING };
	return {
		person: { name: who.name, role: who.role },
		demo: await locals.office.ask('clockCanMove', undefined, who),
		today: await locals.office.ask('officeToday', undefined, who),
		answers: who.role === 'colleague' ? await locals.office.ask('countAnswers', undefined, who) : 0,
		...(who.role === 'colleague' ? NOTHING : await office(locals))
	};
};
