import { afterAll, describe, expect, it } from 'vitest';
import { bytesOf } from '../../../../core/testing/bytes.ts';
import { parse, type ParsedMessage } from './parse-message.ts';
import { closeParsePool, parseInThread } from './parse-pool.ts';
import { closeReadingPool } from './reading-pool.ts';

afterAll(async () => {
	await closeParsePool();
	await closeReadingPool();
});

const small = bytesOf('From: a@b.example\r\nSubject: small\r\n\r\nWords.\r\n');
/* Long enough that a look at the threads, each second, falls into it. */
const large = bytesOf(
	`From: a@b.example\r\nSubject: large\r\nContent-Type: text/html\r\n\r\n${'<p>berth <b>fee</b></p>\r\n'.repeat(2_000_000)}`
);

const hexOf = (parsed: ParsedMessage | undefined) => Buffer.from(parsed?.packed.sha256 ?? []).toString('hex');

describe('a message that ends the thread it is read in', () => {
	it('is read in a process of its own, as are those that were with it', async () => {
		const read = await parseInThread([small, large, small], { seconds: 0, aloneMs: 60_000 });
		const expected = parse(small);
		for (const at of [0, 2]) {
			expect(read[at]?.read).toEqual(expected.read);
			expect(hexOf(read[at])).toBe(hexOf(expected));
		}
		expect(read[1]?.packed.rawBytes).toBe(large.length);
		expect(read[1]?.failure).toBeUndefined();
	});

	it('is kept raw where that takes too long as well, with its bytes whole', async () => {
		const [read] = await parseInThread([large], { seconds: 0, aloneMs: 1 });
		expect(read?.read).toBeUndefined();
		expect(read?.failure).toBe('could not be read (reading it takes too long)');
		expect(hexOf(read)).toBe(hexOf(parse(large)));
		expect((await parseInThread([small]))[0]?.failure).toBeUndefined();
	});
});
