/* The retention schedule: what is due, scheduled runs, holds, the policy. */

export { classUseCases, type ClassView, discardClass, showClasses } from './classes.ts';
export { classify } from './decisions/classify.ts';
export { dispose } from './decisions/dispose.ts';
export { pause, resume } from './decisions/pause.ts';
export { retain } from './decisions/retain.ts';
export {
	countDueSoon,
	type DueItem,
	dueItems,
	type DueItemsInput,
	type DueLine,
	dueOverview,
	type DueOverview,
	dueRow,
	dueUseCases,
	listDue
} from './due.ts';
export {
	countHolds,
	holdMessages,
	type HoldMessages,
	holdsUseCases,
	type HoldView,
	type HoldInput,
	releaseHold,
	listedHolds,
	placeHold
} from './holds.ts';
export { type PauseEnding, pausesEnding } from './pauses-ending.ts';
export { type Policy, type PolicySettings, policyUseCases, setPolicy } from './policy.ts';
export { type RetentionGiven, retainUseCases, type RetentionSetting, setRetention, tryRetention } from './retain.ts';
export { listRetained, retainedUseCases, triedWords } from './retained.ts';
export {
	RETAINING,
	type RetainingSettings,
	type RunDocket,
	runSchedule,
	runScheduleUseCases,
	scheduleHasWork,
	setRetaining
} from './run-schedule.ts';
export {
	discardSeries,
	exportSchedule,
	importSchedule,
	listSchedule,
	saveSeries,
	scheduleUseCases,
	type SeriesFields,
	showSeries,
	trySeries,
	useStarterSchedule
} from './schedule.ts';
export { type Standing, standingOf } from './standing.ts';
