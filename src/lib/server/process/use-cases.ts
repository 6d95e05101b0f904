import { accountUseCases, signInUseCases } from '../access/index.ts';
import { archivingUseCases, binUseCases, prepareArchivingUseCases } from '../archive/index.ts';
import {
	backUpUseCases,
	checkStandingUseCases,
	repairArchiveUseCases,
	returnFreedSpaceUseCases
} from '../backup/index.ts';
import { makeDigestsUseCases } from '../digest/index.ts';
import {
	approveDocketUseCases,
	carryOutUseCases,
	certificatesUseCases,
	prepareDocketUseCases,
	showDocketUseCases
} from '../docket/index.ts';
import {
	exportMailUseCases,
	decideMessagesUseCases,
	findUseCases,
	readMessageUseCases,
	restoreUseCases,
	suggestUseCases
} from '../find/index.ts';
import { clearTagUseCases } from '../filing/index.ts';
import { foldersUseCases } from '../folders/index.ts';
import { importMailboxUseCases, importsUseCases, readFilesUseCases } from '../intake/index.ts';
import { keepListUseCases } from '../keep-list/index.ts';
import { clockUseCases, readLedgerUseCases } from '../ledger/index.ts';
import {
	decideListsUseCases,
	inflowUseCases,
	leaveListsUseCases,
	listsTogetherUseCases,
	listsUseCases,
	listWaysUseCases,
	sendersUseCases
} from '../lists/index.ts';
import { lotsUseCases, proposeUseCases, showProposalsUseCases } from '../lots/index.ts';
import {
	openingsUseCases,
	mailboxesUseCases,
	rereadMailUseCases,
	tagsUseCases,
	threadMailUseCases
} from '../mail/index.ts';
import { ownUseCases, peopleUseCases, requestsUseCases, reviewsUseCases, tidyOwnUseCases } from '../people/index.ts';
import { firstStepsUseCases } from './first-steps.ts';
import { frameUseCases } from './frame.ts';
import { jobsUseCases } from './jobs.ts';
import { nightUseCases } from './night.ts';
import {
	dueUseCases,
	holdsUseCases,
	classUseCases,
	policyUseCases,
	retainedUseCases,
	retainUseCases,
	runScheduleUseCases,
	scheduleUseCases
} from '../retention/index.ts';
import { awaitedUseCases, closeThreadUseCases, deskUseCases, pileRuleUseCases, pilesUseCases } from '../desk/index.ts';
import {
	rehearseUseCases,
	rulesUseCases,
	runRulesUseCases,
	serverScriptUseCases,
	sieveUseCases,
	standingListUseCases
} from '../rules/index.ts';
import {
	allowWritingUseCases,
	connectUseCases,
	followUseCases,
	setFetchingUseCases,
	watchUseCases
} from '../sources/index.ts';
import { sendMailUseCases, writingUseCases } from '../writing/index.ts';
import { applyRetentionUseCases, financialYearUseCases } from '../standing/index.ts';
import { clearingUseCases, weighUseCases } from '../weigh/index.ts';
import type { AnyUseCase, Context } from '../context/index.ts';

/* All use cases, each defined beside its function. Threads, rights and lanes are read from the definitions. */
const defined = [
	...accountUseCases,
	...signInUseCases,
	...archivingUseCases,
	...binUseCases,
	...prepareArchivingUseCases,
	...backUpUseCases,
	...repairArchiveUseCases,
	...checkStandingUseCases,
	...returnFreedSpaceUseCases,
	...makeDigestsUseCases,
	...approveDocketUseCases,
	...carryOutUseCases,
	...certificatesUseCases,
	...prepareDocketUseCases,
	...showDocketUseCases,
	...exportMailUseCases,
	...decideMessagesUseCases,
	...findUseCases,
	...readMessageUseCases,
	...restoreUseCases,
	...suggestUseCases,
	...clearTagUseCases,
	...foldersUseCases,
	...importMailboxUseCases,
	...importsUseCases,
	...readFilesUseCases,
	...keepListUseCases,
	...clockUseCases,
	...readLedgerUseCases,
	...decideListsUseCases,
	...inflowUseCases,
	...leaveListsUseCases,
	...listWaysUseCases,
	...listsUseCases,
	...listsTogetherUseCases,
	...sendersUseCases,
	...lotsUseCases,
	...proposeUseCases,
	...showProposalsUseCases,
	...openingsUseCases,
	...mailboxesUseCases,
	...rereadMailUseCases,
	...tagsUseCases,
	...threadMailUseCases,
	...ownUseCases,
	...peopleUseCases,
	...requestsUseCases,
	...reviewsUseCases,
	...tidyOwnUseCases,
	...firstStepsUseCases,
	...frameUseCases,
	...jobsUseCases,
	...nightUseCases,
	...dueUseCases,
	...holdsUseCases,
	...deskUseCases,
	...pilesUseCases,
	...pileRuleUseCases,
	...awaitedUseCases,
	...closeThreadUseCases,
	...writingUseCases,
	...connectUseCases,
	...followUseCases,
	...allowWritingUseCases,
	...setFetchingUseCases,
	...watchUseCases,
	...sendMailUseCases,
	...rulesUseCases,
	...runRulesUseCases,
	...rehearseUseCases,
	...sieveUseCases,
	...serverScriptUseCases,
	...standingListUseCases,
	...classUseCases,
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
/** Long work in the background. */
export type JobName = {
	[N in UseCaseName]: Definitions[N]['isJob'] extends true ? N : never;
}[UseCaseName];
/** Use cases that return a stream of bytes. */
export type StreamName = {
	[N in UseCaseName]: ReturnType<Definitions[N]['run']> extends AsyncGenerator<Uint8Array> ? N : never;
}[UseCaseName];
/** Questions answered at once. */
export type QuestionName = OnThread<'reader' | 'heavy' | 'opener'>;
/** Changes made at once. */
export type ChangeName = Exclude<OnThread<'writer'>, JobName>;

/** The input of a use case. */
export type InputOf<N extends UseCaseName> = Definitions[N]['run'] extends (context: Context, input: infer I) => unknown
	? unknown extends I
		? undefined
		: I
	: undefined;
/** Its answer. */
export type OutputOf<N extends UseCaseName> = Awaited<ReturnType<Definitions[N]['run']>>;

const byName = new Map<string, AnyUseCase>(defined.map((useCase) => [useCase.name, useCase]));

/** The definition of a use case. @throws Error for an unknown name */
export function useCase(name: string): AnyUseCase {
	const found = byName.get(name);
	if (!found) throw new Error(`There is no use case "${name}"`);
	return found;
}

/** All names. */
export const USE_CASE_NAMES = [...byName.keys()];
