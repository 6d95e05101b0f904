import { expect } from 'vitest';
import { compareDue } from '../standing/due-store.ts';
import { row, rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { compareWeights } from '../mail/weights-store.ts';
import { letter, mboxFile, openOffice } from './office.ts';
import type { Context } from '../context/context.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { type RetentionGiven, type RetentionSetting, setRetention } from '../retention/retain.ts';
import { runSchedule, setRetaining } from '../retention/run-schedule.ts';

/* The office's day is 25 Nov 2026. Letters of three folders, from 2018 to 2026; one has an implausible date. */
const MAIL: Record<string, [subject: string, date: string][]> = {
	Accounts: [
		['Invoice 2018', 'Thu, 29 Mar 2018 10:00:00 +0000'],
		['Invoice 2019', 'Fri, 31 May 2019 10:00:00 +0000'],
		['Invoice 2024', 'Fri, 31 May 2024 10:00:00 +0000'],
		['Invoice 2026', 'Sun, 31 May 2026 10:00:00 +0000']
	],
	'Accounts/Drafts': [['Draft 2020', 'Fri, 31 Jan 2020 10:00:00 +0000']],
	Odds: [
		['Odd 2023', 'Fri, 30 Jun 2023 10:00:00 +0000'],
		['Odd never', 'Fri, 30 Jun 2062 10:00:00 +0000']
	]
};

/** A mailbox "Office" with that mail, without any decisions. */
export async function retainedOffice(): Promise<Context> {
	const context = await openOffice();
	for (const [folder, letters] of Object.entries(MAIL))
		await importMailbox(context, {
			path: mboxFile(letters.map(([subject, date]) => letter(subject, date, `The words of ${subject}: zanzibar.`))),
			mailbox: 'Office',
			folder
		});
	return context;
}

/** The number of a folder of the mailbox. */
export const folderId = async ({ db }: Context, folder: string) =>
	(await row<{ id: number }>(db, sql`SELECT id FROM folder WHERE path = ${folder} AND tree = 'mailbox'`))?.id as number;
/** The number of a message. */
export const itemId = async ({ db }: Context, subject: string) =>
	(
		await row<{ id: number }>(
			db,
			sql`SELECT item.id FROM item JOIN message ON message.id = item.message_id WHERE subject = ${subject}`
		)
	)?.id as number;

/** Sets a folder's retention, as a person would. */
export async function retain(
	context: Context,
	folder: string,
	wish: Partial<Extract<RetentionSetting, { kind: 'folders' }>>,
	because = 'as decided'
): Promise<void> {
	await setRetention(context, {
		wish: { kind: 'folders', folderIds: [await folderId(context, folder)], ...wish },
		because
	});
}
/** A plain period. */
export const terms = (text: string): RetentionGiven => ({ terms: text });

/** The disposition of each message, by its subject. */
export async function dues({ db }: Context): Promise<Record<string, string>> {
	const found = await rows<{ subject: string; due: string | null }>(
		db,
		sql`SELECT subject, due_on || ' ' || due_action AS due FROM item JOIN message ON message.id = item.message_id WHERE due_on IS NOT NULL`
	);
	return Object.fromEntries(found.map(({ subject, due }) => [subject, due ?? '']));
}

/** Checks all summaries against the items. */
export async function consistent({ db }: Context): Promise<void> {
	expect(await compareDue(db)).toBe(0);
	expect(await compareWeights(db)).toBe(0);
}

/** A series: archived after two years, destroyed after seven. */
export const FINANCE = {
	code: 'FIN-01',
	title: 'Invoices',
	trigger: 'financial-year',
	period: 'P7Y',
	disposition: 'archive-destroy',
	archive_after: 'P2Y',
	authority: 'Board, 3 May 2021'
};

/** Switches scheduled runs on as a person does: after seeing what would happen. */
export async function switchOn(context: Context, mode: 'ask' | 'do'): Promise<void> {
	const would = await runSchedule(context, { dryRun: true });
	await setRetaining(context, { mailbox: 'Office', mode, seen: would.archived + would.destroyed });
}
