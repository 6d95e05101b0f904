/** Questions that may go through a whole mailbox: a thread of their own answers them, so that no page waits for them. */
export const HEAVY = [
	'listLots',
	'lotItems',
	'listProposals',
	'proposalItems',
	'clearingOverview',
	'searchKeepList',
	'docketItems',
	'listLists',
	'showList',
	'listInflow',
	'tryHold',
	'listedHolds',
	'readCertificate',
	'dueOverview',
	'dueItems',
	'tryRetention',
	'trySeries',
	'listRuns',
	'narrow',
	'suggest'
] as const;
export type HeavyName = (typeof HEAVY)[number];
