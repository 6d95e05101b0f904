import { randomBytes } from 'node:crypto';
import { gzipSync } from 'node:zlib';
import { expect, it } from 'vitest';
import { readPackedJson } from './server/web/packed-json.ts';
import { packedJson } from './upload.ts';

/* The largest body that the server takes (BODY_SIZE_LIMIT in tools/start.js). */
const LARGEST_BODY = 8 * 1024 * 1024;
const MOST_FILES = 200_000;

const asked = (body: BodyInit, type?: string) =>
	new Request('http://127.0.0.1/uploads', {
		method: 'POST',
		body,
		...(type ? { headers: { 'content-type': type } } : {})
	});

it('packs the names and the hashes of the largest folder into one request', async () => {
	const files = Array.from({ length: MOST_FILES }, (_, n) => ({
		path: `Mail/.Projects.Slipway/cur/${1_580_724_000 + n * 37}.M${(n * 7919) % 999_983}P${n % 4000}.skerry,S=${n * 13},W=${n * 14}:2,S`,
		bytes: n * 13,
		modified: 1_580_724_000_000 + n * 37_000
	}));
	const hashes = Array.from({ length: MOST_FILES }, () => randomBytes(32).toString('hex'));
	for (const given of [{ files }, { hashes }]) {
		const body = await packedJson(given);
		expect(body.size).toBeLessThan(LARGEST_BODY);
		expect(await readPackedJson(asked(body))).toEqual(given);
	}
});

it.each([
	['plain JSON', '{"hashes":[]}', 'application/json', { hashes: [] }],
	['no JSON', 'files', 'application/json', undefined],
	['no gzip', '{"hashes":[]}', 'application/gzip', undefined],
	['what unpacks to too much', new Uint8Array(gzipSync(Buffer.alloc(110_000_000, 32))), 'application/gzip', undefined]
])('takes %s as it should be taken', async (_what, body, type, expected) => {
	expect(await readPackedJson(asked(body, type))).toEqual(expected);
});
