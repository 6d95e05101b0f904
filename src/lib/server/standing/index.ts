/* The standing of an item: class, series, period, pause, hold, due date. */

export {
	applyRetentionUseCases,
	applySmall,
	isBeingApplied,
	recalculateDue,
	requireApplied
} from './apply-retention.ts';
export {
	comingDue,
	compareDue,
	recountDue,
	countDueNeverArchived,
	countHeldDue,
	type DueChange,
	dueCondition,
	type DueRow,
	listDueWeights,
	refreshDue,
	tryDue,
	uncountDue,
	weighDue
} from './due-store.ts';
export {
	findClass,
	listClasses,
	putClass,
	putClassQuota,
	removeClass,
	usesOfClasses,
	weighAdded,
	weighClasses,
	type ClassWeight
} from './classes-store.ts';
export { financialYearMonth, financialYearUseCases } from './financial-year.ts';
export {
	addHold,
	dueUnder,
	findHold,
	heldBy,
	holdsOfItem,
	holdsOfMailbox,
	holdWeights,
	listHolds,
	mailboxesUnder,
	refreshHolds,
	putHoldRelease,
	putUnderHold,
	type StoredHold
} from './holds-store.ts';
export { activePauses, addPause, endFolderPause, type Pause, type Paused, pausedOn, isPaused } from './pauses-store.ts';
export { requireAllowed } from './policy-bounds.ts';
export {
	appliedSettings,
	beginRetention,
	classOfFolder,
	ensurePeriod,
	type FolderRetention,
	governed,
	itemRetention,
	listRetentions,
	namedRetentions,
	noteSettings,
	putDefaultRetention,
	putFolderRetention,
	putNamedRetention,
	retainedFolders,
	type Retention,
	retentionDefaults,
	retentionOfSeries,
	type WhatIf
} from './retention-store.ts';
export {
	addSeries,
	addVersion,
	findSeries,
	governedBy,
	listSeries,
	removeSeries,
	type SeriesVersion,
	seriesVersions,
	usesOfSeries
} from './series-store.ts';
export { overQuotaUnderSettings, overQuotaAfterAdding } from './class-quotas.ts';
export { inFolders, isProposable } from './proposable.ts';
