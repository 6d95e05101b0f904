import { decideLists, leaveDigest, markMessages } from '../lists/decide-lists.ts';
import { isBeingAppliedSomewhere, recalculateDue } from '../standing/apply-retention.ts';
import { approveDocket, isApprovalDemanded } from '../docket/approve-docket.ts';
import { setArchiving, setFinancialYear } from '../archive/archiving.ts';
import { financialYearMonth } from '../standing/financial-year.ts';
import { listBin, prepareEmptying, setClearing } from '../archive/bin.ts';
import { carryOut, takeBack } from '../docket/carry-out.ts';
import { backUp, backupStanding, isBackupWanted, setBackupFolder } from '../backup/back-up.ts';
import { exportCertificate, listedCertificates, readCertificate } from '../docket/certificates.ts';
import { clearingOverview, freedSoFar } from '../weigh/clearing.ts';
import type { Context } from '../context/context.ts';
import { countDueSoon, dueItems, dueOverview } from '../retention/due.ts';
import { exportMail, exportZip } from '../find/export-mail.ts';
import { dropCodes, endSessions, myAccount, offerCode, useCodes } from '../access/account.ts';
import { find, narrow } from '../find/find.ts';
import { noteLook } from '../mail/looks.ts';
import { haveInMyMailbox, keepOwn, myReach, ownerView, ownItems } from '../people/own.ts';
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
} from '../people/people.ts';
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
} from '../people/requests.ts';
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
} from '../access/sign-in.ts';
import { suggest } from '../find/suggest.ts';
import {
	endPause,
	folderPerYear,
	makeFolder,
	mergeFolder,
	pauseFolder,
	removeFolders,
	renameFolder
} from '../folders/folders.ts';
import type { HeavyName } from './heavy.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { countHolds, liftHold, listedHolds, placeHold, tryHold } from '../retention/holds.ts';
import { listInflow } from '../lists/inflow.ts';
import { clearUploads, listImports, listOddities } from '../intake/imports.ts';
import { leaveLists, leftByHand } from '../lists/leave-lists.ts';
import { listLists, setGraceDays } from '../lists/lists.ts';
import { showList } from '../lists/list-ways.ts';
import {
	beginJob,
	finishJob,
	jobsToResume,
	listJobs,
	noteJobsProgressed,
	noticeResults,
	retryEndedJob
} from './jobs.ts';
import { decideKeepList, dropKeepLine, searchKeepList, standingKeepLines } from '../keep-list/keep-list.ts';
import { decideLots, listLots, lotItems } from '../lots/lots.ts';
import { setQuota } from '../mail/mailboxes.ts';
import { decideArchiving, prepareArchiving, prepareArranging } from '../archive/prepare-archiving.ts';
import {
	decide,
	decideOn,
	dropDocket,
	dropLine,
	includeProtected,
	nameDocket,
	prepareDocket,
	recountDocket
} from '../docket/prepare-docket.ts';
import { dismissDocket, docketItems, listedDockets, showDocket, showSlip } from '../docket/show-docket.ts';
import { findProposals, listProposals, proposalItems } from '../lots/propose.ts';
import { readAttachment, readHtml, readMessage, readRaw } from '../find/read-message.ts';
import { readOddity } from '../intake/imports.ts';
import { readPolicy, setPolicy } from '../retention/policy.ts';
import { readLedger } from '../ledger/read-ledger.ts';
import { filesWait, readFiles } from '../intake/read-files.ts';
import { rereadMail } from '../mail/reread-mail.ts';
import { restore, restoreFound } from '../find/restore.ts';
import { setRetention, tryRetention } from '../retention/retain.ts';
import { listNamed, listRetained } from '../retention/retained.ts';
import { listRuns, runSchedule, setRetaining } from '../retention/run-schedule.ts';
import {
	dropSeries,
	exportSchedule,
	importSchedule,
	listSchedule,
	saveSeries,
	showSeries,
	trySeries,
	useStarterSchedule
} from '../retention/schedule.ts';
import { changeTag, listTags } from '../mail/tags.ts';
import { makeDigests, setDigest } from '../digest/make-digests.ts';
import { clockCanMove, letDaysPass, nightHasWork, runNight } from './night.ts';
import { judgeSender, listSenders, markSender, trustLists } from '../lists/senders.ts';
import { readThread } from '../mail/thread-mail.ts';
import { verifyArchive } from '../backup/verify-archive.ts';
import { compareMailboxes, listWeights, mailboxFolders, officeToday, weighMailbox } from '../weigh/weigh.ts';

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

/* Those of process/heavy. */
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
