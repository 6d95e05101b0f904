import type { Db } from '../database/open.ts';
import { change, row } from './rows.ts';

/** What is set for the office as a whole. */
export type Setting =
	'time-zone' | 'clock-ahead-days' | 'financial-year-month' | 'leaving-grace-days' | 'delivered-through';

/** The value of a setting, undefined where it was never set. */
export async function getSetting(db: Db, key: Setting): Promise<string | undefined> {
	return (await row<{ value: string }>(db, `SELECT value FROM setting WHERE key = ?`, [key]))?.value;
}

/** Sets a setting. */
export async function putSetting(db: Db, key: Setting, value: string): Promise<void> {
	await change(
		db,
		`INSERT INTO setting (key, value) VALUES (?, ?) ON CONFLICT (key) DO UPDATE SET value = excluded.value`,
		[key, value]
	);
}
