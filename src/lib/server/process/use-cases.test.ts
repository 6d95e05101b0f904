import Joi from 'joi';
import { describe, expect, it } from 'vitest';
import type { Right } from '../../../core/access/roles.ts';
import { USE_CASE_NAMES, useCase } from './use-cases.ts';

/* The rights to use cases, written by hand, not read from the definitions. All others are the administrator's. */
const ALLOWED: Record<Exclude<Right, 'administrator'>, string> = {
	anybody: `signIn enterCode personOfToken signOut isFirstStart demoAccounts readLink signInByLink`,
	person: `noteVisit changePassword myAccount setAtOnce endSessions offerCode useCodes removeCodes officeToday clockCanMove readPolicy showFrame`,
	finder: `find readExcerpts narrow suggest myReach readMessage readHtml readAttachment readRaw readThread recordOpening exportZip restore
		copyToOwnMailbox ownItems listSaved changeSaved makeRequest myRequests countAnswers noticeAnswers ownerView keepOwn
		decideOwn carryOutOwn takeBackOwn discardOwn ownTidying ownWeight setOwnPeriod answerReview`,
	oversight: `listWeights compareMailboxes countDueSoon countHolds checkStanding isBackupWanted backupStanding freedSoFar readLedger
		listedCertificates readCertificate exportCertificate listSchedule listSeriesNames showClasses financialYearMonth showSeries exportSchedule listPeople
		isApprovalDemanded`
};
const expected = new Map(
	(Object.entries(ALLOWED) as [Right, string][]).flatMap(([right, names]) =>
		names.split(/\s+/).map((name) => [name, right] as const)
	)
);

/* The thread that answers sessions must not wait for anything. */
const AT_ONCE = ['personOfToken', 'showFrame', 'readLink', 'isFirstStart'];
/* Parsing hostile mail is kept away from them. */
const OPENS_MAIL = ['find', 'readExcerpts', 'readMessage', 'readHtml', 'readAttachment', 'readRaw', 'readOddity'];

describe('use cases', () => {
	it.each(USE_CASE_NAMES.map((name) => [name, expected.get(name) ?? 'administrator']))('%s: %s', (name, right) => {
		expect(useCase(name).right).toBe(right);
	});

	it('are all there that the table names', () => {
		for (const name of expected.keys()) expect(USE_CASE_NAMES, name).toContain(name);
	});

	it('change nothing where they are questions, and run where nothing waits for them', () => {
		for (const name of AT_ONCE) expect(useCase(name).thread).toBe('reader');
		for (const name of OPENS_MAIL) expect(useCase(name).thread).toBe('opener');
		for (const name of USE_CASE_NAMES) {
			const { thread, isJob, look } = useCase(name);
			if (isJob) expect(['writer', 'checker'], name).toContain(thread);
			if (look) expect(thread, name).toBe('opener');
		}
	});

	it('say which of their jobs wait for each other', () => {
		const lanes = USE_CASE_NAMES.flatMap((name) => {
			const { job } = useCase(name);
			return job ? [[name, job.lane] as const] : [];
		});
		expect(Object.fromEntries(lanes)).toEqual({
			importMailbox: 'import',
			rereadMail: 'import',
			repairArchive: 'import',
			threadMail: 'import',
			followSources: 'import',
			carryOut: 'docket',
			takeBack: 'docket',
			makeDigests: 'docket',
			recalculateDue: 'docket',
			runSchedule: 'docket',
			runRules: 'docket',
			returnAwaited: 'docket',
			runNight: 'docket',
			letDaysPass: 'docket',
			leaveLists: 'outside',
			readFiles: 'files',
			findProposals: 'look',
			verifyArchive: 'check',
			verifyShare: 'check',
			exportMail: 'check',
			backUp: 'check'
		});
	});

	it.each<[string, unknown, string | undefined]>([
		['discardDocket', { id: 7 }, undefined],
		['discardDocket', { id: '7' }, 'must be a number'],
		['discardDocket', { id: 7.5 }, 'must be an integer'],
		['discardDocket', {}, 'is required'],
		['setQuota', { mailbox: 'Office', bytes: 5 }, undefined],
		['setQuota', { mailbox: 3, bytes: undefined }, undefined],
		['setQuota', { mailbox: -3, bytes: undefined }, 'must be greater than or equal'],
		['setRetention', { wish: { kind: 'folders', folderIds: [] }, because: '' }, 'does not match'],
		['find', { query: '', limit: 25, gathered: { of: 'proposal', proposal: 'thanks' } }, undefined],
		['find', { query: '', limit: 25, gathered: { of: 'proposal', proposal: 'rumours' } }, 'does not match'],
		['decideMessages', { decision: 'archive', options: {} }, 'at least one of'],
		['decideMessages', { ids: [1], decision: 'destroy', options: {} }, 'must be one of'],
		['decideMessages', { ids: [1], decision: 'hold', options: {}, hold: { name: 'Claim' } }, undefined],
		['find', { query: 'ramp', limit: 25, narrowing: { year: '20' } }, 'fails to match'],
		['find', { query: 'ramp', limit: 25, narrowing: { year: '2020', file: 'any' } }, undefined],
		['carryOut', { id: 1, expected: { messages: 3 } }, 'is required'],
		['importMailbox', { path: '/mail', mailbox: '' }, undefined],
		['importMailbox', { path: '/mail' }, 'is required']
	])('%s of %j: %s', (name, input, wrong) => {
		const { error } = (useCase(name).input?.() ?? Joi.any()).validate(input, { convert: false, allowUnknown: true });
		if (wrong === undefined) expect(error).toBeUndefined();
		else expect(error?.message).toContain(wrong);
	});
});
