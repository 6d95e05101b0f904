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
	stopRestoredJobs,
	takeNoted
} from './jobs-store.ts';
