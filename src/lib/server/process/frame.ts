import type { CalendarDate } from '../../../core/calendar.ts';
import { type Context, defineUseCase, today } from '../context/index.ts';
import { isBackupWanted } from '../backup/index.ts';
import { isApprovalDemanded } from '../docket/index.ts';
import { countAnswers, countRequests } from '../people/index.ts';
import type { Job } from '../queue/index.ts';
import { countDueSoon, countHolds } from '../retention/index.ts';
import { listWeights, type MailboxWeight } from '../weigh/index.ts';
import { listJobs } from './jobs.ts';
import { clockCanMove } from './night.ts';

/* Under the bell. */
const JOBS_SHOWN = 12;

/** A job as the bell shows it; what it was asked with stays on the server. */
type JobShown = Pick<
	Job,
	'id' | 'label' | 'about' | 'state' | 'error' | 'endedAt' | 'noticedAt' | 'useCase' | 'result'
>;

/** What the frame around every page shows: what waits in each stage, the mailboxes, the work in the background. */
export interface Frame {
	/** Whether days can be let pass: in a demo. */
	demo: boolean;
	today: CalendarDate;
	/** Answers to requests that a colleague has not seen. */
	answers: number;
	noBackup: boolean;
	dueSoon: number;
	holds: number;
	approvalDemanded: boolean;
	requests: number;
	mailboxes: MailboxWeight[];
	jobs: JobShown[];
}

/** What the frame shows to whoever asks: a colleague's has nothing of the office. */
async function showFrame(context: Context): Promise<Frame> {
	const { role } = context.actor;
	const frame: Frame = {
		demo: await clockCanMove(context),
		today: today(context),
		answers: role === 'colleague' ? await countAnswers(context) : 0,
		noBackup: false,
		dueSoon: 0,
		holds: 0,
		approvalDemanded: false,
		requests: 0,
		mailboxes: [],
		jobs: []
	};
	if (role === 'colleague') return frame;
	const isAdministrator = role === 'administrator';
	const jobs = isAdministrator ? await listJobs(context, { limit: JOBS_SHOWN }) : [];
	return {
		...frame,
		noBackup: await isBackupWanted(context),
		dueSoon: await countDueSoon(context),
		holds: await countHolds(context),
		approvalDemanded: await isApprovalDemanded(context),
		requests: isAdministrator ? await countRequests(context) : 0,
		mailboxes: await listWeights(context),
		jobs: jobs.map(({ id, label, about, state, error, endedAt, noticedAt, useCase, result }) => ({
			id,
			label,
			about,
			state,
			error,
			endedAt,
			noticedAt,
			useCase,
			result
		}))
	};
}

/** The use cases of this file. */
export const frameUseCases = [
	defineUseCase({ name: 'showFrame', thread: 'reader', right: 'person', run: showFrame })
] as const;
