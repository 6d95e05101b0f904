import { readdirSync, readFileSync } from 'node:fs';
import { getPriority } from 'node:os';
import { constants, deflateRawSync, deflateSync } from 'node:zlib';
import { afterAll, describe, expect, it } from 'vitest';
import { bytesOf } from '../../../../core/testing/bytes.ts';
import { closeReadingPool, readApart } from './reading-pool.ts';

afterAll(closeReadingPool);

const withFile = (type: string, name: string, content: Uint8Array) =>
	bytesOf(
		`Content-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\n\r\nSee the list.\r\n--b\r\nContent-Type: ${type}; name="${name}"\r\nContent-Transfer-Encoding: base64\r\nContent-Disposition: attachment; filename="${name}"\r\n\r\n${Buffer.from(content).toString('base64')}\r\n--b--\r\n`
	);
const LIST = withFile('text/csv', 'berths.csv', Buffer.from('berth,fee\r\nTorsay,40\r\n'));

/* A page whose text is two gigabytes of blanks, packed twice: some kilobytes. */
function hugePdf(): Uint8Array {
	// blocks that end with a full flush can follow each other (RFC 1951)
	const block = deflateRawSync(Buffer.alloc(32 * 2 ** 20, ' '), { finishFlush: constants.Z_FULL_FLUSH });
	const blocks = Array.from({ length: 64 }, () => block);
	const twice = deflateSync(Buffer.concat([Buffer.from([0x78, 0x9c]), ...blocks, Buffer.from([3, 0])]), { level: 9 });
	const objects = [
		'<< /Type /Catalog /Pages 2 0 R >>',
		'<< /Type /Pages /Kids [3 0 R] /Count 1 >>',
		'<< /Type /Page /Parent 2 0 R /MediaBox [0 0 9 9] /Contents 4 0 R >>'
	];
	let file = '%PDF-1.4\n';
	const places: number[] = [];
	for (const [at, object] of objects.entries()) {
		places.push(file.length);
		file += `${at + 1} 0 obj\n${object}\nendobj\n`;
	}
	places.push(file.length);
	const head = Buffer.from(
		`${file}4 0 obj\n<< /Length ${twice.length} /Filter [/FlateDecode /FlateDecode] >>\nstream\n`,
		'latin1'
	);
	const end = Buffer.from(`\nendstream\nendobj\ntrailer\n<< /Root 1 0 R /Size 5 >>\nstartxref\n0\n%%EOF\n`, 'latin1');
	return Buffer.concat([head, twice, end]);
}

describe('reading in a process of its own', () => {
	it('gives what is asked for', async () => {
		expect(await readApart('files', LIST)).toMatchObject({ outcome: 'read', text: expect.stringContaining('Torsay') });
		expect(await readApart('body', LIST)).toMatchObject({ text: 'See the list.', hasHtml: false });
		expect(await readApart('texts', LIST)).toMatchObject({ own: 'See the list.' });
		expect(await readApart('html', LIST)).toBeUndefined();
		expect((await readApart('parse', LIST)).packed.rawBytes).toBe(LIST.length);
	});

	/*
	 * Of the processes that this one has begun for reading, by proc(5): the second word behind the name is the parent, the 17th
	 * the nice value. A server that another test began may still be ending.
	 */
	const priorities = () =>
		readdirSync('/proc').flatMap((pid) => {
			if (!/^\d+$/.test(pid)) return [];
			try {
				const words = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1]?.split(' ') ?? [];
				const isReading = readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('--max-old-space-size=512');
				return Number(words[1]) === process.pid && isReading ? [Number(words[16])] : [];
			} catch {
				return [];
			}
		});

	it.skipIf(process.platform !== 'linux')('reads at a lower priority what nobody waits for', async () => {
		await closeReadingPool();
		// all tests may run at a low one, which nothing raises
		const atLeast = (nice: number) => Math.max(nice, getPriority());
		await readApart('body', LIST);
		expect(priorities()).toEqual([atLeast(5)]);
		await readApart('files', LIST);
		expect(priorities().sort((a, b) => a - b)).toEqual([atLeast(5), atLeast(15)]);
	});

	it('ends what takes too long, and goes on with the next', async () => {
		await expect(readApart('files', LIST, 1)).rejects.toMatchObject({ why: 'took-too-long' });
		expect(await readApart('files', LIST)).toMatchObject({ outcome: 'read' });
	});

	it('ends what takes too much memory, buffers counted, and goes on with the next', async () => {
		const { length } = hugePdf();
		expect(length).toBeLessThan(20_000);
		const mail = withFile('application/pdf', 'plan.pdf', hugePdf());
		// memory is what it comes to an end by, however long that takes
		const outcome = await readApart('files', mail, 200_000).catch((error: unknown) => error);
		expect(outcome).toMatchObject({ why: 'took-too-much' });
		expect(await readApart('files', LIST)).toMatchObject({ outcome: 'read' });
	});

	it('knows nothing of a message whose reading was cut off, and reads it afterwards', async () => {
		const cutOff = readApart('files', LIST);
		const [outcome] = await Promise.allSettled([cutOff, closeReadingPool()]);
		// an end by a limit would be final
		expect(outcome).toMatchObject({ status: 'rejected', reason: { name: expect.not.stringMatching('ReadingEnded') } });
		expect(await readApart('files', LIST)).toMatchObject({ outcome: 'read' });
	});
});
