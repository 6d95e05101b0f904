/* The weight of mailboxes, and ways to free space. */

export { clearingUseCases, type FinishLine, type FreedSoFar } from './clearing.ts';
export {
	listWeights,
	type MailboxWeight,
	setQuotaWarnings,
	type Weighing,
	weighMailbox,
	weighUseCases
} from './weigh.ts';
export { WEIGHED_BY, type WeighedBy } from './weighed-rows.ts';
