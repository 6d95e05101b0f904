/* Mailing lists: recognised, unsubscribed from, blocked, folded into a digest. */

export { clearJunk, type JunkCleared, junkPastItsDays } from './clear-junk.ts';
export {
	type BackIssues,
	decideLists,
	decideListsUseCases,
	isJunkMark,
	JUNK_MARKS,
	type JunkMark,
	removeFromDigest,
	listsLines,
	markLines,
	prepareLists
} from './decide-lists.ts';
export { block } from './decisions/block.ts';
export { digest } from './decisions/digest.ts';
export { unsubscribe } from './decisions/unsubscribe.ts';
export {
	addDigest,
	digestLists,
	type DigestOriginal,
	digestsWithoutDocket,
	type Folded,
	lastDigest,
	mailboxesWithDigest,
	oldestToFold,
	originalsOf,
	putDigestDocket,
	toFold
} from './digests-store.ts';
export { inflowUseCases } from './inflow.ts';
export { type Asked, leaveLists, leaveListsUseCases, listsWaiting } from './unsubscribe-lists.ts';
export { countByHand } from './unsubscribe-store.ts';
export { type ListInFull, listWaysUseCases } from './list-ways.ts';
export { listsById } from './lists-store.ts';
export {
	listIds,
	listLists,
	type ListRow,
	type ListsAsked,
	type ListsPart,
	listsUseCases,
	mailboxesGetting,
	noteWrittenTo
} from './lists.ts';
export { listsTogetherUseCases } from './lists-together.ts';
export { applyBlocking, judgeSender, listSenders, markSender, sendersUseCases, tryBlocking } from './senders.ts';
