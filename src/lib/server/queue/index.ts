/* Enqueued jobs. */

export {
	addJob,
	endJob,
	getJob,
	isNoted,
	type Job,
	type JobState,
	listJobs,
	noteProgressed,
	noticeJobs,
	reopenJob,
	retryJob,
	runningJobs,
	takeNoted
} from './jobs-store.ts';
