import type { CalendarDate } from '../../../core/calendar.ts';
import { type Context, defineUseCase, roomSentence, today } from '../context/index.ts';
import { checkStanding, isBackupWanted } from '../backup/index.ts';
import { isApprovalDemanded } from '../docket/index.ts';
import { clockDoubt, doubtInWords } from '../ledger/index.ts';
import { countAnswers, countRequests } from '../people/index.ts';
import { isReadingAgain } from '../mail/index.ts';
import type { Job } from '../queue/index.ts';
import type { RecordClass } from '../../../core/retention/classes.ts';
import { countDueSoon, countHolds } from '../retention/index.ts';
import { listClasses } from '../standing/index.ts';
import { listWeights, type MailboxWeight } from '../weigh/index.ts';
import { listJobs } from './jobs.ts';
import { clockCanMove } from './night.ts';

/* In the list under the bell. */
const JOBS_SHOWN = 12;

/** A job in the list under the bell; its input stays on the server. */
type JobShown = Pick<
	Job,
	'id' | 'label' | 'about' | 'state' | 'error' | 'endedAt' | 'noticedAt' | 'useCase' | 'result'
>;

/** The content of the frame around every page: what waits in each stage, the mailboxes, background jobs. */
export interface Frame {
	/** Whether days can be passed, as in a demo. */
	demo: boolean;
	today: CalendarDate;
	/** Unread answers to a colleague's requests. */
	answers: number;
	noBackup: boolean;
	/** The damage that the last check found, in words; '': none. */
	damage: string;
	/** Whether stored mail is being read again: searches find only a part of it. */
	rereading: boolean;
	/** Where room on the disk gets short, as a sentence; '': there is enough. */
	room: string;
	/** Why the clock is doubted, as a sentence; '': it is not. */
	clock: string;
	dueSoon: number;
	holds: number;
	approvalDemanded: boolean;
	requests: number;
	/** The classes of the office: their names and letters stand wherever mail is shown. */
	classes: RecordClass[];
	mailboxes: MailboxWeight[];
	jobs: JobShown[];
}

/** The frame for the person signed in; a colleague's shows nothing of the office. */
async function showFrame(context: Context): Promise<Frame> {
	const { role } = context.actor;
	const frame: Frame = {
		demo: await clockCanMove(context),
		today: today(context),
		answers: role === 'colleague' ? await countAnswers(context) : 0,
		noBackup: false,
		damage: '',
		rereading: await isReadingAgain(context),
		room: '',
		clock: '',
		dueSoon: 0,
		holds: 0,
		approvalDemanded: false,
		requests: 0,
		classes: await listClasses(context.db),
		mailboxes: [],
		jobs: []
	};
	if (role === 'colleague') return frame;
	const isAdministrator = role === 'administrator';
	const doubt = await clockDoubt(context);
	const jobs = isAdministrator ? await listJobs(context, { limit: JOBS_SHOWN }) : [];
	return {
		...frame,
		noBackup: await isBackupWanted(context),
		damage: (await checkStanding(context))?.damage ?? '',
		room: roomSentence(context),
		clock: doubt ? doubtInWords(context, doubt) : '',
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
