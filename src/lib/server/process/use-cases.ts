import { accountUseCases } from '../access/account.ts';
import { signInUseCases } from '../access/sign-in.ts';
import { archivingUseCases } from '../archive/archiving.ts';
import { binUseCases } from '../archive/bin.ts';
import { prepareArchivingUseCases } from '../archive/prepare-archiving.ts';
import { backUpUseCases } from '../backup/back-up.ts';
import { verifyArchiveUseCases } from '../backup/verify-archive.ts';
import { makeDigestsUseCases } from '../digest/make-digests.ts';
import { approveDocketUseCases } from '../docket/approve-docket.ts';
import { carryOutUseCases } from '../docket/carry-out.ts';
import { certificatesUseCases } from '../docket/certificates.ts';
import { prepareDocketUseCases } from '../docket/prepare-docket.ts';
import { showDocketUseCases } from '../docket/show-docket.ts';
import { exportMailUseCases } from '../find/export-mail.ts';
import { findUseCases } from '../find/find.ts';
import { readMessageUseCases } from '../find/read-message.ts';
import { restoreUseCases } from '../find/restore.ts';
import { suggestUseCases } from '../find/suggest.ts';
import { foldersUseCases } from '../folders/folders.ts';
import { importMailboxUseCases } from '../intake/import-mailbox.ts';
import { importsUseCases } from '../intake/imports.ts';
import { readFilesUseCases } from '../intake/read-files.ts';
import { keepListUseCases } from '../keep-list/keep-list.ts';
import { readLedgerUseCases } from '../ledger/read-ledger.ts';
import { decideListsUseCases } from '../lists/decide-lists.ts';
import { inflowUseCases } from '../lists/inflow.ts';
import { leaveListsUseCases } from '../lists/leave-lists.ts';
import { listWaysUseCases } from '../lists/list-ways.ts';
import { listsUseCases } from '../lists/lists.ts';
import { sendersUseCases } from '../lists/senders.ts';
import { decideProposalsUseCases } from '../lots/decide-proposals.ts';
import { lotsUseCases } from '../lots/lots.ts';
import { proposeUseCases } from '../lots/propose.ts';
import { looksUseCases } from '../mail/looks.ts';
import { mailboxesUseCases } from '../mail/mailboxes.ts';
import { rereadMailUseCases } from '../mail/reread-mail.ts';
import { tagsUseCases } from '../mail/tags.ts';
import { threadMailUseCases } from '../mail/thread-mail.ts';
import { ownUseCases } from '../people/own.ts';
import { peopleUseCases } from '../people/people.ts';
import { requestsUseCases } from '../people/requests.ts';
import { frameUseCases } from './frame.ts';
import { jobsUseCases } from './jobs.ts';
import { nightUseCases } from './night.ts';
import { decideDueUseCases } from '../retention/decide-due.ts';
import { dueUseCases } from '../retention/due.ts';
import { holdsUseCases } from '../retention/holds.ts';
import { policyUseCases } from '../retention/policy.ts';
import { retainUseCases } from '../retention/retain.ts';
import { retainedUseCases } from '../retention/retained.ts';
import { runScheduleUseCases } from '../retention/run-schedule.ts';
import { scheduleUseCases } from '../retention/schedule.ts';
import { applyRetentionUseCases } from '../standing/apply-retention.ts';
import { financialYearUseCases } from '../standing/financial-year.ts';
import { clearingUseCases } from '../weigh/clearing.ts';
import { weighUseCases } from '../weigh/weigh.ts';
import type { Context } from '../context/context.ts';
import type { AnyUseCase } from '../context/use-case.ts';

/* Every use case there is, each defined beside its function. Threads, rights and lanes are read off the definitions. */
const defined = [
	...accountUseCases,
	...signInUseCases,
	...archivingUseCases,
	...binUseCases,
	...prepareArchivingUseCases,
	...backUpUseCases,
	...verifyArchiveUseCases,
	...makeDigestsUseCases,
	...approveDocketUseCases,
	...carryOutUseCases,
	...certificatesUseCases,
	...prepareDocketUseCases,
	...showDocketUseCases,
	...exportMailUseCases,
	...findUseCases,
	...readMessageUseCases,
	...restoreUseCases,
	...suggestUseCases,
	...foldersUseCases,
	...importMailboxUseCases,
	...importsUseCases,
	...readFilesUseCases,
	...keepListUseCases,
	...readLedgerUseCases,
	...decideListsUseCases,
	...inflowUseCases,
	...leaveListsUseCases,
	...listWaysUseCases,
	...listsUseCases,
	...sendersUseCases,
	...decideProposalsUseCases,
	...lotsUseCases,
	...proposeUseCases,
	...looksUseCases,
	...mailboxesUseCases,
	...rereadMailUseCases,
	...tagsUseCases,
	...threadMailUseCases,
	...ownUseCases,
	...peopleUseCases,
	...requestsUseCases,
	...frameUseCases,
	...jobsUseCases,
	...nightUseCases,
	...decideDueUseCases,
	...dueUseCases,
	...holdsUseCases,
	...policyUseCases,
	...retainUseCases,
	...retainedUseCases,
	...runScheduleUseCases,
	...scheduleUseCases,
	...applyRetentionUseCases,
	...financialYearUseCases,
	...clearingUseCases,
	...weighUseCases
] as const;

type Definitions = { [D in (typeof defined)[number] as D['name']]: D };

/** The name of a use case. */
export type UseCaseName = keyof Definitions;

type OnThread<T> = { [N in UseCaseName]: Definitions[N]['thread'] extends T ? N : never }[UseCaseName];
/** Long work, in the background. */
export type JobName = {
	[N in UseCaseName]: Definitions[N]['isJob'] extends true ? N : never;
}[UseCaseName];
/** Work that answers with a stream of bytes. */
export type StreamName = {
	[N in UseCaseName]: ReturnType<Definitions[N]['run']> extends AsyncGenerator<Uint8Array> ? N : never;
}[UseCaseName];
/** What is answered at once, without changing anything. */
export type QuestionName = OnThread<'reader' | 'heavy' | 'opener'>;
/** Changes that are done at once. */
export type ChangeName = Exclude<OnThread<'writer'>, JobName>;

/** What a use case is asked with. */
export type InputOf<N extends UseCaseName> = Definitions[N]['run'] extends (context: Context, input: infer I) => unknown
	? unknown extends I
		? undefined
		: I
	: undefined;
/** What it answers. */
export type OutputOf<N extends UseCaseName> = Awaited<ReturnType<Definitions[N]['run']>>;

const byName = new Map<string, AnyUseCase>(defined.map((useCase) => [useCase.name, useCase]));

/** The definition of a use case. @throws Error where there is none of that name */
export function useCase(name: string): AnyUseCase {
	const found = byName.get(name);
	if (!found) throw new Error(`There is no use case "${name}"`);
	return found;
}

/** The names of all. */
export const USE_CASE_NAMES = [...byName.keys()];
