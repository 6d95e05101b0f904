import { decideLists, leaveDigest, markMessages } from './decide-lists.ts';
import { isBeingAppliedSomewhere, recalculateDue } from './apply-retention.ts';
import { approveDocket, isApprovalDemanded } from './approve-docket.ts';
import { financialYearMonth, setArchiving, setFinancialYear } from './archiving.ts';
import { listBin, prepareEmptying, setClearing } from './bin.ts';
import { carryOut, takeBack } from './carry-out.ts';
import { backUp, backupStanding, isBackupWanted, setBackupFolder } from './back-up.ts';
import { exportCertificate, listedCertificates, readCertificate } from './certificates.ts';
import { clearingOverview, freedSoFar } from './clearing.ts';
import type { Context } from './context.ts';
import { countDueSoon, dueItems, dueOverview } from './due.ts';
import { exportMail, exportZip } from './export-mail.ts';
import { dropCodes, endSessions, myAccount, offerCode, useCodes } from './account.ts';
import { find, narrow } from './find.ts';
import { noteLook } from './looks.ts';
import { haveInMyMailbox, keepOwn, myReach, ownerView, ownItems } from './own.ts';
import {
	addPerson,
	changeGroup,
	changePerson,
	grant,
	listPeople,
	newLink,
	revoke,
	setAccess,
	setOwner
} from './people.ts';
import {
	answerRequest,
	changeSaved,
	countAnswers,
	countRequests,
	listRequests,
	listSaved,
	makeRequest,
	myRequests,
	noticeAnswers
} from './requests.ts';
import {
	changePassword,
	comeIn,
	demoAccounts,
	enterCode,
	isFirstStart,
	linkForFirst,
	noteVisit,
	readLink,
	signIn,
	signOut,
	whoIs
} from './sign-in.ts';
import { suggest } from './suggest.ts';
import {
	endPause,
	folderPerYear,
	makeFolder,
	mergeFolder,
	pauseFolder,
	removeFolders,
	renameFolder
} from './folders.ts';
import type { HeavyName } from './heavy.ts';
import { importMailbox } from './import-mailbox.ts';
import { countHolds, liftHold, listedHolds, placeHold, tryHold } from './holds.ts';
import { listInflow } from './inflow.ts';
import { clearUploads, listImports, listOddities } from './imports.ts';
import { leaveLists, leftByHand } from './leave-lists.ts';
import { listLists, setGraceDays } from './lists.ts';
import { showList } from './list-ways.ts';
import {
	beginJob,
	finishJob,
	jobsToResume,
	listJobs,
	noteJobsProgressed,
	noticeResults,
	retryEndedJob
} from './jobs.ts';
import { decideKeepList, dropKeepLine, searchKeepList, standingKeepLines } from './keep-list.ts';
import { decideLots, listLots, lotItems } from './lots.ts';
import { setQuota } from './mailboxes.ts';
import { decideArchiving, prepareArchiving, prepareArranging } from './prepare-archiving.ts';
import {
	decide,
	decideOn,
	dropDocket,
	dropLine,
	includeProtected,
	nameDocket,
	prepareDocket,
	recountDocket
} from './prepare-docket.ts';
import { dismissDocket, docketItems, listedDockets, showDocket, showSlip } from './show-docket.ts';
import { findProposals, listProposals, proposalItems } from './propose.ts';
import { readAttachment, readHtml, readMessage, readOddity, readRaw } from './read-message.ts';
import { readPolicy, setPolicy } from './policy.ts';
import { readLedger } from './read-ledger.ts';
import { filesWait, readFiles } from './read-files.ts';
import { rereadMail } from './reread-mail.ts';
import { restore, restoreFound } from './restore.ts';
import { setRetention, tryRetention } from './retain.ts';
import { listNamed, listRetained } from './retained.ts';
import { listRuns, runSchedule, setRetaining } from './run-schedule.ts';
import {
	dropSeries,
	exportSchedule,
	importSchedule,
	listSchedule,
	saveSeries,
	showSeries,
	trySeries,
	useStarterSchedule
} from './schedule.ts';
import { changeTag, listTags } from './tags.ts';
import { makeDigests, setDigest } from './make-digests.ts';
import { clockCanMove, letDaysPass, nightHasWork, runNight } from './night.ts';
import { judgeSender, listSenders, markSender, trustLists } from './senders.ts';
import { readThread } from './thread-mail.ts';
import { verifyArchive } from './verify-archive.ts';
import { compareMailboxes, listWeights, mailboxFolders, officeToday, weighMailbox } from './weigh.ts';

/* Which thread does what. The page's own thread opens no database: nothing there can make a request wait. */

/** Questions: they change nothing and are answered by the reader thread. */
export const questions = {
	listWeights,
	weighMailbox,
	mailboxFolders,
	compareMailboxes,
	officeToday,
	showSlip,
	listedDockets,
	showDocket,
	find,
	myReach,
	listSaved,
	myRequests,
	listRequests,
	countAnswers,
	countRequests,
	isApprovalDemanded,
	listPeople,
	whoIs,
	isFirstStart,
	demoAccounts,
	readLink,
	myAccount,
	offerCode,
	ownerView,
	ownItems,
	listTags,
	listBin,
	listedCertificates,
	freedSoFar,
	standingKeepLines,
	readThread,
	readMessage,
	readHtml,
	readAttachment,
	readRaw,
	readOddity,
	readLedger,
	listImports,
	listOddities,
	listJobs,
	listSenders,
	judgeSender,
	clockCanMove,
	nightHasWork,
	countHolds,
	countDueSoon,
	backupStanding,
	isBackupWanted,
	financialYearMonth,
	isBeingAppliedSomewhere,
	filesWait,
	listSchedule,
	showSeries,
	exportSchedule,
	listNamed,
	listRetained,
	readPolicy
};

/* Those of work/heavy. */
const heavyQuestions = {
	listLots,
	lotItems,
	listProposals,
	proposalItems,
	clearingOverview,
	searchKeepList,
	docketItems,
	listLists,
	showList,
	listInflow,
	tryHold,
	listedHolds,
	readCertificate,
	dueOverview,
	dueItems,
	tryRetention,
	trySeries,
	listRuns,
	narrow,
	suggest
} satisfies Record<HeavyName, unknown>;

/** Changes that are done at once, by the writer thread. */
export const changes = {
	clearUploads,
	setQuota,
	setArchiving,
	setFinancialYear,
	prepareArchiving,
	prepareArranging,
	prepareDocket,
	decide,
	decideArchiving,
	decideOn,
	includeProtected,
	nameDocket,
	recountDocket,
	dropLine,
	dropDocket,
	dismissDocket,
	approveDocket,
	decideLots,
	prepareEmptying,
	setClearing,
	changeTag,
	makeFolder,
	renameFolder,
	removeFolders,
	mergeFolder,
	folderPerYear,
	pauseFolder,
	endPause,
	decideKeepList,
	dropKeepLine,
	decideLists,
	markMessages,
	leaveDigest,
	leftByHand,
	setGraceDays,
	setDigest,
	markSender,
	trustLists,
	placeHold,
	liftHold,
	saveSeries,
	dropSeries,
	importSchedule,
	useStarterSchedule,
	setRetention,
	setRetaining,
	setPolicy,
	setBackupFolder,
	restore,
	restoreFound,
	haveInMyMailbox,
	keepOwn,
	makeRequest,
	answerRequest,
	noticeAnswers,
	changeSaved,
	noteLook,
	signIn,
	enterCode,
	signOut,
	noteVisit,
	linkForFirst,
	comeIn,
	changePassword,
	endSessions,
	useCodes,
	dropCodes,
	addPerson,
	newLink,
	changePerson,
	changeGroup,
	grant,
	revoke,
	setOwner,
	setAccess,
	beginJob,
	finishJob,
	jobsToResume,
	noteJobsProgressed,
	retryEndedJob,
	noticeResults
};

/** Long changes, by the writer thread, as jobs with progress. */
export const longChanges = {
	importMailbox,
	carryOut,
	takeBack,
	rereadMail,
	readFiles,
	findProposals,
	leaveLists,
	makeDigests,
	recalculateDue,
	runSchedule,
	runNight,
	letDaysPass
};

/** Long work that reads everything, by a thread of its own, as jobs with progress. */
export const longReads = { verifyArchive, exportMail, backUp };

/** Work that answers with a stream of bytes, by the thread that reads everything. */
export const streams = { exportZip, exportCertificate };
export type StreamName = keyof typeof streams;

export const useCases = { ...questions, ...heavyQuestions, ...changes, ...longChanges, ...longReads };

type UseCases = typeof useCases;
export type UseCaseName = keyof UseCases;
export type JobName = keyof typeof longChanges | keyof typeof longReads;

/** What a use case is asked with. */
export type InputOf<N extends UseCaseName> = UseCases[N] extends (context: Context, input: infer I) => unknown
	? unknown extends I
		? undefined
		: I
	: undefined;
/** What it answers. */
export type OutputOf<N extends UseCaseName> = Awaited<ReturnType<UseCases[N]>>;
