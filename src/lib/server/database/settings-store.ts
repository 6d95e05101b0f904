import type { Db } from './open.ts';

/** Settings of the office. */
export type Setting =
	| 'time-zone'
	| 'clock-ahead-days'
	| 'financial-year-month'
	| 'leaving-grace-days'
	| 'delivered-through'
	/** The highest number of a removed tag. */
	| 'last-removed-tag'
	/** The highest number that an item had when items were destroyed. */
	| 'last-destroyed-item'
	/** What a certificate keeps of a destroyed message beside its hash: `subject`, or nothing. */
	| 'certificate-keeps'
	/** The shortest and the longest period that a person may give a single message (ISO 8601). */
	| 'own-period-least'
	| 'own-period-most'
	/** Who decides on retention, in the policy's own words. */
	| 'policy-owner'
	/** The folder for nightly backups, and the last backup. */
	| 'backup-folder'
	| 'backup-last'
	/** Number of a docket: scheduled runs up to it do not count as approved, so the next one asks. */
	| 'asks-anew-behind'
	/** The key that marks known browsers. */
	| 'device-secret'
	/** The identity of the data file (database/data-folder). */
	| 'data-id'
	/** Whether administrators have to use one-time codes: `yes`, or not. */
	| 'administrators-use-codes'
	/** Whether a destruction decided by a person needs a second person: `yes`, or not. */
	| 'destruction-approval'
	/** When to warn of quotas (core/weigh/quota-warning), as JSON. */
	| 'quota-warnings'
	/** Numbers of the tags whose mail is never proposed, as JSON. */
	| 'proposal-tags'
	/** The last instant at which the clock was right; ISO 8601 (ledger/clock). */
	| 'clock-mark'
	/** By which reading (core/message/summary) all stored mail was read; `yes` while it is being read again. */
	| 'reading'
	| 'reading-again'
	/** How far the checks are that run by themselves, as JSON (backup/check-standing). */
	| 'check-standing'
	/** Accounts shown on a demo's sign-in page. */
	| 'demo-accounts';

/** The value of a setting, undefined if it was never set. */
export async function getSetting(db: Db, key: Setting): Promise<string | undefined> {
	return (await db('setting').where({ key }).first('value'))?.value;
}

/** Sets a setting. */
export async function putSetting(db: Db, key: Setting, value: string): Promise<void> {
	await db('setting').insert({ key, value }).onConflict(['key']).merge(['value']);
}
