import { afterAll, expect, it } from 'vitest';
import { importMailbox } from '../intake/import-mailbox.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { itemsOfThreads, putAnswered, putIntoSets, referenceSets } from '../mail/threads-store.ts';
import { putFollowedMarks, putMarks } from '../sources/follow-store.ts';
import { putMoved } from '../sources/outbox-store.ts';
import { letter, mboxFile, openOffice } from '../testing/office.ts';
import type { Db } from './open.ts';

afterAll(closeParsePool);

it.each([
	['is new', 0],
	['was small when its statistics were taken', 40]
])(
	'a statement asks the tables by what it looks for, not by all that is there, in an archive that %s',
	async (_which, size) => {
		const { db, ...context } = await openOffice();
		const letters = Array.from({ length: size }, (_, n) => letter(`Ramp ${n}`, 'Mon, 02 Mar 2020 10:00:00 +0000'));
		if (size > 0) await importMailbox({ ...context, db }, { path: mboxFile(letters), mailbox: 'Office' });
		const plans: string[] = [];
		const planned = {
			raw: async (statement: string, bindings: never) => {
				const plan = (await db.raw(`EXPLAIN QUERY PLAN ${statement}`, bindings)) as { detail: string }[];
				if (statement.includes('json_each')) plans.push(plan[0]?.detail ?? '');
				return db.raw(statement, bindings);
			}
		} as unknown as Db;
		await referenceSets(planned, 1, [1]);
		await itemsOfThreads(planned, [1]);
		await putIntoSets(planned, [[1, 1]]);
		await putAnswered(planned, [{ id: 1, on: '2020-03-02' }]);
		await putFollowedMarks(planned, 1, [{ uid: 1, flags: 0, keywords: [] }]);
		await putMoved(planned, { from: 1, to: 1, numbers: new Map([[1, 2]]) });
		await putMarks(planned, [{ itemId: 1, changed: 1, now: 1 }]);
		const byWhatItLooksFor =
			/^SCAN (wanted|now|moved|marks) VIRTUAL TABLE|^SEARCH source_item .*\(source_folder_id=\? AND uid=\?\)/;
		for (const plan of plans) expect(plan).toMatch(byWhatItLooksFor);
		expect(plans.length).toBeGreaterThan(7);
	}
);
