/* What every use case needs, and how one is defined. */

export {
	actingAs,
	type Context,
	ENDING,
	type Following,
	machineSeconds,
	nowSeconds,
	type OpenDataFolder,
	type Progress,
	today
} from './context.ts';
export {
	count,
	decision,
	decisionOptions,
	dueAction,
	foundState,
	grouping,
	id,
	layout,
	mailboxIds,
	mailboxRef,
	gathered,
	narrowing,
	proposalKind,
	protection,
	recordClass,
	role,
	text
} from './inputs.ts';
export { rehearse } from './rehearse.ts';
export { requireRoom, roomSentence } from './room.ts';
export { type AnyUseCase, defineJob, defineUseCase, type Lane, type Look, type Thread } from './use-case.ts';
