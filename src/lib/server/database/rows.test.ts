import { expect, it } from 'vitest';
import { openOffice } from '../testing/office.ts';
import { rows } from './rows.ts';
import { sql } from './sql.ts';

it('lets its thread read messages between the statements of long work', async () => {
	const { db } = await openOffice();
	let messages = 0;
	const { port1, port2 } = new MessageChannel();
	port1.onmessage = () => messages++;
	port2.postMessage('stop');
	// some seconds of work, if nothing comes in between
	for (let n = 0; n < 200_000 && messages === 0; n++) await rows(db, sql`SELECT 1`);
	expect(messages).toBe(1);
	port1.close();
});
