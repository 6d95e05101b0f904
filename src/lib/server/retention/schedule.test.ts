import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { listLedger } from '../ledger/ledger-store.ts';
import { change, row, rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { letter } from '../testing/office.ts';
import { carryOut } from '../docket/carry-out.ts';
import { differingCertificates, exportCertificate, readCertificate } from '../docket/certificates.ts';
import { actingAs, type Context } from '../context/context.ts';
import { administratorNamed } from '../../../core/access/roles.ts';
import { readPolicy, setPolicy } from './policy.ts';
import { setRetention } from './retain.ts';
import { runSchedule } from './run-schedule.ts';
import {
	discardSeries,
	exportSchedule,
	importSchedule,
	listSchedule,
	saveSeries,
	useStarterSchedule
} from './schedule.ts';
import { verify } from '../backup/verify-archive.ts';
import path from 'node:path';
import { retainedOffice, retain, terms, FINANCE, switchOn } from '../testing/retaining.ts';

describe('the schedule', () => {
	it('is imported and exported as CSV, all or nothing, with its errors by line', async () => {
		const context = await retainedOffice();
		expect((await useStarterSchedule(context)).made).toHaveLength(10);
		await expect(useStarterSchedule(context)).rejects.toThrow('already');
		const csv = await exportSchedule(context);
		expect(csv.split('\r\n')[0]).toBe(
			'code,title,description,trigger,period,disposition,archive_after,authority,owner'
		);
		expect(await importSchedule(context, { csv })).toMatchObject({ made: [], changed: [], same: 10, notNamed: [] });
		const wrong = `code,title,period,disposition\nX-1,Fine,P1Y,destroy\nX-2,,P1Y,destroy\n"X-3","two\nlines",x,destroy\nx-1,Again,P1Y,destroy\n`;
		await expect(importSchedule(context, { csv: wrong })).rejects.toThrow(
			/Line 3: A title is missing[\s\S]*Line 5: [\s\S]*not "x"[\s\S]*Line 6: The code x-1 stands on line 2 already[\s\S]*Nothing was changed/
		);
		expect(await listSchedule(context)).toHaveLength(10);
		for (const bad of ['', 'title,period\nx,y\n', 'code,title,disposition\n"A'])
			await expect(importSchedule(context, { csv: bad })).rejects.toThrow('Nothing was changed');
		const done = await importSchedule(context, {
			csv:
				'\uFEFFCode;x\n'.replace(';x', ',Title,Period,Disposition') +
				'gen-01,Everyday post,P1Y,destroy\nNEW,New,permanent,keep\n',
			because: 'Board'
		});
		expect(done).toMatchObject({ made: ['NEW'], changed: ['gen-01'] });
		expect(done.notNamed).toHaveLength(9);
		await discardSeries(context, { code: 'NEW', because: 'never used' });
		expect(await listSchedule(context)).toHaveLength(10);
		await retain(context, 'Odds', { retention: { series: 'GEN-01' } });
		await expect(discardSeries(context, { code: 'GEN-01', because: 'x' })).rejects.toThrow('set in 1 place');
	});
});

describe('certificates', () => {
	async function destroyed(keeps: 'subject' | 'hash'): Promise<{ context: Context; docketId: number }> {
		const context = await retainedOffice();
		await setPolicy(context, { certificateKeeps: keeps, owner: 'the board' });
		await saveSeries(context, { fields: { ...FINANCE, disposition: 'destroy', archive_after: '' } });
		await retain(context, 'Accounts', { retention: { series: 'FIN-01' } });
		await switchOn(context, 'do');
		const { dockets } = await runSchedule(context, {});
		const docketId = dockets[0]?.docket as number;
		await carryOut(actingAs(context, administratorNamed('Maren')), { id: docketId, confirm: 'destroy' });
		return { context, docketId };
	}

	it('say what was destroyed, under which version, by whose decision, and are chained', async () => {
		const { context, docketId } = await destroyed('subject');
		// the series changes later: the certificate refers to the version of that day
		await saveSeries(context, { fields: { ...FINANCE, period: 'P9Y', authority: 'Board, 2026' }, because: 'longer' });
		const certificate = await readCertificate(context, { docketId, limit: 10 });
		expect(certificate).toMatchObject({
			mailbox: 'Office',
			decidedBy: 'tester',
			madeBy: 'Maren',
			messages: 1,
			isGenuine: true
		});
		expect(certificate.items).toMatchObject([
			{
				series: 'FIN-01',
				version: 1,
				authority: 'Board, 3 May 2021',
				dueOn: '2026-01-01',
				because: 'destroyed 7 years after the end of the financial year in which it was received',
				subject: 'Invoice 2018',
				from: 'Tove <tove@skerryline.example>'
			}
		]);
		const raw = letter('Invoice 2018', 'Thu, 29 Mar 2018 10:00:00 +0000', 'The words of Invoice 2018: zanzibar.');
		expect(certificate.items[0]?.sha256).toBe(createHash('sha256').update(raw).digest('hex'));
		const [line] = (await listLedger(context.db)).filter(({ details }) => 'certificateHash' in details);
		expect(line?.details.certificateHash).toBe(certificate.sha256);

		const text = async (format: 'csv' | 'json') => {
			const parts: Uint8Array[] = [];
			for await (const part of exportCertificate(context, { docketId, format })) parts.push(part);
			return Buffer.concat(parts).toString();
		};
		expect((await text('csv')).split('\r\n')).toHaveLength(3);
		expect(JSON.parse(await text('json'))).toMatchObject({ messages: 1, items: [{ series: 'FIN-01' }] });

		expect(await differingCertificates(context.db)).toEqual([]);
		await change(context.db, sql`UPDATE certificate_item SET subject = 'Something else'`);
		expect(await differingCertificates(context.db)).toEqual([docketId]);
		expect((await readCertificate(context, { docketId, limit: 1 })).isGenuine).toBe(false);
		expect((await verify(context)).ok).toBe(false);
	});

	it('keep the hash alone where the policy says so; of the message nothing is left in the file', async () => {
		const { context, docketId } = await destroyed('hash');
		expect((await readCertificate(context, { docketId, limit: 10 })).items).toMatchObject([{ subject: '', from: '' }]);
		const file = () => readFileSync(path.join(context.dataFolder, 'kovrel.sqlite'));
		await change(context.db, sql`VACUUM`).catch(() => undefined);
		await rows(context.db, sql`PRAGMA wal_checkpoint(TRUNCATE)`);
		expect(file().includes('Invoice 2019')).toBe(true);
		expect(file().includes('Invoice 2018')).toBe(false);
		expect(await row(context.db, sql`SELECT count(*) AS n FROM words WHERE words MATCH '"2018"'`)).toEqual({ n: 0 });
	});
});

it('the policy says what is set, and changes with it', async () => {
	const context = await retainedOffice();
	await saveSeries(context, { fields: FINANCE });
	const before = await readPolicy(context);
	expect(before.mailboxes[0]?.sentences.join(' ')).toContain('the scheduled run is off');
	await retain(context, 'Accounts', { retention: { series: 'FIN-01' }, class: 'record' });
	await setRetention(context, {
		wish: { kind: 'class', class: 'transitory', retention: terms('received destroy P90D -') }
	});
	await switchOn(context, 'ask');
	const { general, mailboxes, series } = await readPolicy(context);
	expect(general.join(' ')).toContain(
		'Class T, “transitory”: mail in a folder without a period is destroyed 90 days after it was received'
	);
	expect(mailboxes[0]?.sentences.join(' ')).toContain(
		'waits for a person to carry it out. The schedule runs every night.'
	);
	expect(mailboxes[0]?.folders.map(({ path: folder }) => folder)).toEqual(['Accounts']);
	expect(series.map(({ code, uses }) => [code, uses])).toEqual([['FIN-01', 1]]);
});
