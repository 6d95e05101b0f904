import pino from 'pino';
import { expect, it } from 'vitest';
import { openOffice } from './testing/office.ts';
import { LOG_OPTIONS } from './log.ts';
import { change } from './database/rows.ts';
import { sql } from './database/sql.ts';

/** One parsed line of the log. */
function lineOf(error: unknown): { error: { type: string; message: string; stack: string } } {
	let written = '';
	pino({ ...LOG_OPTIONS, level: 'info' }, { write: (line) => (written += line) }).error({ error }, 'something failed');
	return JSON.parse(written) as ReturnType<typeof lineOf>;
}

it('has the message of an error, where it came from, and why', () => {
	const { error } = lineOf(new Error('No such place', { cause: new TypeError('of undefined') }));
	expect(error).toMatchObject({ type: 'Error', message: expect.stringContaining('No such place') as string });
	expect(error.message).toContain('of undefined');
	expect(error.stack).toContain('log.test.ts');
});

it('has a statement that failed without what people wrote', async () => {
	const { db } = await openOffice();
	const failed = await change(
		db,
		sql`INSERT INTO mailbox (name, no_such_column) VALUES (${'Ylva'}, ${'secret'})`
	).catch((error: unknown) => error);
	const line = lineOf(failed);
	expect(line.error.message).toContain('no_such_column');
	expect(JSON.stringify(line)).not.toMatch(/Ylva|secret/);
});
