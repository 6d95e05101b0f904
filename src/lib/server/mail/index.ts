/* Contents, messages, items, folders, mailboxes, threads and weights. */

export { checkedQuery } from './checked-query.ts';
export { condition, isPausedOn, escapeLike } from './conditions-store.ts';
export {
	contentsIn,
	contentTotals,
	countStored,
	DamagedContentError,
	hasContent,
	highestContent,
	highestUsedContent,
	pack,
	putContents,
	readableContent,
	readContent,
	readContents,
	type Stored,
	unpack,
	usedContents
} from './contents-store.ts';
export { countFileTexts, filesToRead, fileTexts, hasFilesToRead, putFileTexts } from './file-texts-store.ts';
export {
	binOf,
	emptyFolders,
	ensureFolder,
	findFolder,
	pathAsWritten,
	putNeverArchived,
	deskFolders,
	binFolders,
	findRole,
	foldersById,
	folderWithBelow,
	keepArchiveFoldersInUse,
	listFolders,
	pathNames,
	putFolderPlace,
	removeEmptyFolders,
	reviveFolders,
	type Tree,
	liesIn
} from './folders-store.ts';
export { followRename } from './renamed-store.ts';
export { hasEnded, HELD, IS_RECORD, NEVER_ARCHIVED, NEVER_ARCHIVED_FOLDERS } from './item-marks-store.ts';
export {
	addItems,
	addItemsLike,
	type ExportedItem,
	firstItemNotThreaded,
	folderOfItems,
	itemIdsInOrder,
	itemRange,
	type ItemRow,
	itemsById,
	itemsWhere,
	type NewItem,
	hasNeverArchived,
	weighItems,
	keepItemNumbers
} from './items-store.ts';
export { IS_ON_SERVER, noteForServer, WAITS, waitingOfDocket, type WaitingForServer } from './outbox-store.ts';
export { type OpeningRow, openingsIn } from './openings-store.ts';
export { openingsUseCases, recordCopies, recordOpening } from './openings.ts';
export { inLots, isTextKey, lotKey, SIZE_BAND, TOP_LEVEL_DOMAIN, unreadBand } from './lot-keys-store.ts';
export {
	getMailbox,
	listMailboxes,
	type Mailbox,
	putArchiving,
	putClearing,
	putDigesting,
	putRetaining,
	RETAINING,
	type Retaining
} from './mailboxes-store.ts';
export {
	ensureMailbox,
	mailboxesUseCases,
	type MailboxRef,
	requireFolder,
	requireMailbox,
	requireMailboxes,
	requireMailboxId,
	setQuota
} from './mailboxes.ts';
export { listsOfItems, putLists } from './message-lists-store.ts';
export { type MessageRows, messageRows, READ_COLUMNS, type StoredAttachment } from './message-rows.ts';
export {
	type Correspondent,
	countIndexed,
	deleteWords,
	getItem,
	indexedAmong,
	mergeWords,
	otherItems,
	inTheIndex,
	type ItemDetails,
	putCorrespondents,
	putMessages,
	putWords,
	type ReadMessage
} from './messages-store.ts';
export { closeParsePool, parseInThread, readWaysInThread, warmParsePool } from './reading/parse-pool.ts';
export { closeReadingPool, READ_AT_ONCE, readApart, ReadingEndedError } from './reading/reading-pool.ts';
export type { ReadBody } from './reading/reading.worker.ts';
export {
	isReadingAgain,
	readStored,
	rebuildWords,
	requireReadAsNow,
	rereadMail,
	rereadMailUseCases
} from './reread-mail.ts';
export {
	ensureTag,
	findTag,
	type Tag,
	listTagNames,
	tagsInMailbox,
	tagsOfItems,
	itemsWithTag,
	removeTag
} from './tags-store.ts';
export { changeTag, requireTag, type TagChange, tagsUseCases, weighTags } from './tags.ts';
export { eachThread, threadMail, threadMailUseCases, threadNewMail } from './thread-mail.ts';
export { itemsOfThreads, likelyAddresses, putAddressed, removeEmptyThreads, type ThreadItem } from './threads-store.ts';
export {
	addFreed,
	compareWeights,
	recountWeights,
	countItems,
	binByDueDate,
	freedByDay,
	type LargeMessage,
	largestMessages,
	liveBeforeMonth,
	monthsOfMailboxes,
	type NamedWeight,
	type Shifted,
	shiftWeights,
	unreadInInboxes,
	weighBinned,
	type Weighed,
	weighInbox,
	weightByAddress,
	weightByBand,
	weightByFolder,
	weightByFolderAndYear,
	weightByKind,
	weightByList,
	weightByMonth,
	weightByOrganisation,
	weightByState,
	yearsOfFolders
} from './weights-store.ts';
export { type AheadKey, weightAhead, weightAheadBy, weightAheadInInbox } from './weights-ahead-store.ts';
export type { ParsedMessage } from './reading/parse-message.ts';
export {
	differingRows,
	idsOf,
	indexFinds,
	knownRows,
	messagesLackingParts,
	type Place,
	placeOfItem,
	placesOfContent,
	placesOfMessage,
	someMessages,
	type SummedTable,
	wordsWithoutMessage
} from './row-sums-store.ts';
