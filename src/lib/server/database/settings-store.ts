import type { Db } from './open.ts';

/** What is set for the office as a whole. */
export type Setting =
	| 'time-zone'
	| 'clock-ahead-days'
	| 'financial-year-month'
	| 'leaving-grace-days'
	| 'delivered-through'
	/** What a certificate keeps of a destroyed message beside its hash: `subject`, or nothing. */
	| 'certificate-keeps'
	/** The shortest and the longest period that a person may give a single message (ISO 8601). */
	| 'own-period-least'
	| 'own-period-most'
	/** Who decides on retention, in the policy's own words. */
	| 'policy-owner'
	/** Where a backup is made every night, and which one was made last. */
	| 'backup-folder'
	| 'backup-last'
	/** Number of a docket: what was done by itself up to here is no reason to do it without asking again. */
	| 'asks-anew-behind'
	/** Marks the browsers that somebody has signed in from. */
	| 'device-secret'
	/** Which archive the data file is (database/data-folder). */
	| 'data-id'
	/** Whether administrators have to use one-time codes: `yes`, or not. */
	| 'administrators-use-codes'
	/** Whether a destruction that a person decided on wants a second person: `yes`, or not. */
	| 'destruction-approval'
	/** Accounts that a demo shows where one signs in. */
	| 'demo-accounts';

/** The value of a setting, undefined where it was never set. */
export async function getSetting(db: Db, key: Setting): Promise<string | undefined> {
	return (await db('setting').where({ key }).first('value'))?.value;
}

/** Sets a setting. */
export async function putSetting(db: Db, key: Setting, value: string): Promise<void> {
	await db('setting').insert({ key, value }).onConflict(['key']).merge(['value']);
}
