/* The engine of decisions: drafted, counted, frozen, carried out, taken back. It knows no capability. */

export { carryOutAtOnce, collect, type DecisionResult } from './decide-lines.ts';
export { approveDocket, approveDocketUseCases, isApprovalDemanded } from './approve-docket.ts';
export { carryOutScheduled } from './scheduled-docket.ts';
export { carryOut, carryOutUseCases, type DocketOutcome, takeBack, takeBackLines } from './carry-out.ts';
export {
	allDestroyed,
	type Certificate,
	type Destroyed,
	countDestroyedSince,
	lastDestruction,
	destroyedItemsPresent
} from './certificates-store.ts';
export {
	certificatesUseCases,
	type CertificateView,
	differingCertificates,
	exportCertificate,
	listedCertificates,
	readCertificate
} from './certificates.ts';
export { destruction } from './changes/destruction.ts';
export { placeChange } from './changes/place-change-store.ts';
export { tagChange } from './changes/tag-change-store.ts';
export { valueChange } from './changes/value-change-store.ts';
export {
	type BeginningLine,
	type DecisionTable,
	type Destination,
	type ItemWork,
	type ListWork,
	provideDecisions
} from './decision-work.ts';
export {
	archivingOf,
	askAnew,
	type Docket,
	type DocketLine,
	type DocketState,
	docketStates,
	getDocket,
	listDockets,
	putLineOptions,
	recentOptions,
	scheduledDockets
} from './dockets-store.ts';
export {
	decide,
	decideOn,
	draftOf,
	discardDocket,
	itemsByMailbox,
	prepareDocket,
	prepareDocketUseCases,
	countDecisions,
	tryDecision,
	tryDecisions,
	updateDraft
} from './prepare-docket.ts';
export { type ArchivedScope, type Decided, type LineSums, type LotsScope, type Scope } from './scope.ts';
export { selection } from './selection-store.ts';
export {
	type DocketInFull,
	type DocketView,
	type LineView,
	listedDockets,
	type OtherDocket,
	requireDocket,
	showDocket,
	showDocketUseCases,
	viewDocket
} from './show-docket.ts';
export { putOnSlip } from './slips-store.ts';
