import { createHash } from 'node:crypto';
import { afterAll, describe, expect, it } from 'vitest';
import { administratorNamed, KOVREL } from '../../../core/access/roles.ts';
import { emptyDueBins, prepareEmptying, setClearing } from '../archive/bin.ts';
import { actingAs, type Context } from '../context/context.ts';
import { rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { restore } from '../find/restore.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { holdMessages } from '../retention/holds.ts';
import { setPolicy } from '../retention/policy.ts';
import { runSchedule } from '../retention/run-schedule.ts';
import { letter, mboxFile, openOffice } from '../testing/office.ts';
import { retain, switchOn, terms } from '../testing/retaining.ts';
import { carryOut, takeBack } from './carry-out.ts';
import { readCertificate } from './certificates.ts';
import { prepareDocket } from './prepare-docket.ts';

afterAll(closeParsePool);

/*
 * What a certificate says, beside what was destroyed: the messages that were there before and are not there after, with their
 * bytes, and the sentence that a person would write of it, knowing what was done.
 */

const DAY_MS = 86_400_000;
const START = Date.parse('2026-11-25T10:00:00Z');
const on = (context: Context, days: number): Context => ({ ...context, now: () => new Date(START + days * DAY_MS) });
const LETTERS = Array.from({ length: 6 }, (_, n) =>
	letter(`Note ${n}`, `Mon, 0${n + 1} Jan 2018 10:00:00 +0000`, `Words of note ${n}.`)
);
const shaOf = (text: string) => createHash('sha256').update(text, 'latin1').digest('hex');

async function office(): Promise<Context> {
	const context = on(await openOffice(), 0);
	await importMailbox(context, { path: mboxFile(LETTERS), mailbox: 'Office' });
	await setPolicy(context, { certificateKeeps: 'subject', owner: 'the board' });
	return context;
}

const there = async ({ db }: Context) =>
	new Map(
		(
			await rows<{ id: number; subject: string; bytes: number; state: string }>(
				db,
				sql`SELECT item.id, subject, bytes, state FROM item JOIN message ON message.id = item.message_id WHERE state <> 'destroyed'`
			)
		).map((item) => [item.id, item])
	);
const idsOf = async (context: Context, ...notes: number[]) =>
	[...(await there(context)).values()]
		.filter(({ subject }) => notes.includes(Number(subject.slice(5))))
		.map(({ id }) => id);

async function remove(context: Context, ...notes: number[]): Promise<number> {
	const { id } = await prepareDocket(context, {
		mailboxId: 1,
		lines: [{ decision: 'delete', options: {}, scope: { kind: 'items', ids: await idsOf(context, ...notes) } }]
	});
	await carryOut(context, { id });
	return id;
}
const emptyByHand = async (context: Context, onlyDue = false) => {
	const { id } = await prepareEmptying(context, { mailboxId: 1, onlyDue });
	await carryOut(context, { id, confirm: 'Office' });
	return id;
};

interface Deed {
	/** What was done; returns the docket that destroyed. */
	done: (context: Context) => Promise<number | undefined>;
	/** The notes that are gone by it, each with the sentence of its line. */
	gone: Record<number, string>;
	decidedBy?: string;
}

const FROM_BIN = 'destroyed from the bin on';
const DEEDS: [string, Deed][] = [
	[
		'emptied by hand, deleted on two days',
		{
			async done(context) {
				await remove(context, 0, 1);
				await remove(on(context, 3), 2);
				return emptyByHand(on(context, 5));
			},
			gone: {
				0: `deleted on 25 Nov 2026, ${FROM_BIN} 30 Nov 2026`,
				1: `deleted on 25 Nov 2026, ${FROM_BIN} 30 Nov 2026`,
				2: `deleted on 28 Nov 2026, ${FROM_BIN} 30 Nov 2026`
			}
		}
	],
	[
		'emptied by hand of what had its days alone',
		{
			async done(context) {
				await remove(context, 0);
				await remove(on(context, 20), 1);
				return emptyByHand(on(context, 31), true);
			},
			gone: { 0: `deleted on 25 Nov 2026, ${FROM_BIN} 26 Dec 2026` }
		}
	],
	[
		'emptied by its days, at night',
		{
			async done(context) {
				await remove(context, 0, 3);
				await remove(on(context, 10), 4);
				await setClearing(context, { mailbox: 'Office', emptiesBin: true });
				const [first] = await emptyDueBins(on(context, 30));
				await carryOut(on(context, 30), { id: first?.docket as number, confirm: 'Office' });
				const [second] = await emptyDueBins(on(context, 40));
				// the first one asked, and is looked at here; the second went by itself
				expect((await readCertificate(context, { docketId: second?.docket as number, limit: 9 })).items).toMatchObject([
					{ subject: 'Note 4', because: `deleted on 5 Dec 2026, ${FROM_BIN} 4 Jan 2027` }
				]);
				return first?.docket;
			},
			gone: {
				0: `deleted on 25 Nov 2026, ${FROM_BIN} 25 Dec 2026`,
				3: `deleted on 25 Nov 2026, ${FROM_BIN} 25 Dec 2026`,
				4: `deleted on 5 Dec 2026, ${FROM_BIN} 4 Jan 2027`
			}
		}
	],
	[
		'by the schedule',
		{
			async done(context) {
				await retain(context, 'Inbox', { retention: terms('received destroy P8Y -') });
				await switchOn(context, 'do');
				const { dockets } = await runSchedule(actingAs(context, KOVREL), {});
				const id = dockets[0]?.docket as number;
				await carryOut(context, { id, confirm: 'destroy' });
				return id;
			},
			gone: Object.fromEntries([0, 1, 2, 3, 4, 5].map((n) => [n, 'destroyed 8 years after it was received'])),
			decidedBy: 'Kovrel'
		}
	],
	[
		'after a part was taken back, and deleted again later',
		{
			async done(context) {
				const docket = await remove(context, 0, 1, 2);
				await takeBack(on(context, 1), { id: docket });
				await remove(on(context, 2), 1, 2);
				await restore(on(context, 3), { ids: await idsOf(context, 2) });
				return emptyByHand(on(context, 4));
			},
			gone: { 1: `deleted on 27 Nov 2026, ${FROM_BIN} 29 Nov 2026` }
		}
	],
	[
		'with mail under a hold, which stays',
		{
			async done(context) {
				await remove(context, 0, 1);
				await holdMessages(context, { name: 'Claim', because: 'court', from: 'Legal', ids: await idsOf(context, 1) });
				return emptyByHand(on(context, 1));
			},
			gone: { 0: `deleted on 25 Nov 2026, ${FROM_BIN} 26 Nov 2026` }
		}
	]
];

describe('a certificate says what was done', () => {
	it.each(DEEDS)('%s', async (_name, { done, gone, decidedBy }) => {
		const context = actingAs(await office(), administratorNamed('Maren'));
		const before = await there(context);
		const docketId = (await done(context)) as number;
		const after = await there(context);
		const destroyed = [...before.values()].filter(({ id }) => !after.has(id));
		expect(destroyed.map(({ subject }) => subject)).toEqual(Object.keys(gone).map((n) => `Note ${n}`));
		const certificate = await readCertificate(context, { docketId, limit: 99 });
		const lines = certificate.items.map(({ subject, because, sha256, bytes }) => ({ subject, because, sha256, bytes }));
		const expected = Object.entries(gone)
			.map(([n, because]) => {
				const text = LETTERS[Number(n)] as string;
				return { subject: `Note ${n}`, because, sha256: shaOf(text), bytes: text.length };
			})
			// where several dockets destroyed, each has its own certificate
			.filter(
				({ subject }) => lines.length === Object.keys(gone).length || lines.some((line) => line.subject === subject)
			);
		expect(lines).toEqual(expected);
		expect(certificate).toMatchObject({
			mailbox: 'Office',
			madeBy: 'Maren',
			decidedBy: expect.stringContaining(decidedBy ?? '') as string,
			messages: expected.length,
			bytes: expected.reduce((sum, { bytes }) => sum + bytes, 0),
			isGenuine: true
		});
	});
});
