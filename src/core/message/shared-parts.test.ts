import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { bytesOf } from '../testing/bytes.ts';
import { type Platform, cutSharedParts, frameOf, joinParts, SHARED_FROM_BYTES } from './shared-parts.ts';
import { scanStructure } from './structure.ts';

const text = new TextDecoder('latin1');
const platform: Platform = {
	// as lenient as the platform's: characters outside the alphabet are skipped, padding ends it
	decode: (encoded) => {
		const [unit = ''] = encoded.replace(/[^A-Za-z0-9+/=]/g, '').split('=');
		return bytesOf(atob(unit.length % 4 === 1 ? unit.slice(0, -1) : unit));
	},
	encode: (bytes) => btoa(text.decode(bytes)),
	textOf: (bytes) => text.decode(bytes),
	bytesOf
};
const LARGE = 'a line of a large file, 48 bytes long, as it is\n'.repeat(SHARED_FROM_BYTES / 24);

const part = (header: string, body: string) => `--b\n${header}\n\n${body}\n`;
const message = (...parts: string[]) => `Content-Type: multipart/mixed; boundary=b\n\n${parts.join('')}--b--\n`;
const wrap = (content: string, length: number, lineBreak: string) =>
	btoa(content).replace(new RegExp(`.{${length}}(?=.)`, 'g'), `$&${lineBreak}`);
const encoded = 'Content-Type: application/pdf\nContent-Transfer-Encoding: base64';

describe('large attachments cut out of a message', () => {
	it.each<[string, string, number]>([
		['base64', message(part(encoded, wrap(LARGE, 76, '\n'))), 1],
		['two of them', message(part(encoded, wrap(LARGE, 60, '\n')), part(encoded, wrap(LARGE, 76, '\n'))), 2],
		['as it is', message(part('Content-Type: text/csv', LARGE)), 1],
		['empty lines before and behind', message(part(encoded, `\n\n${wrap(LARGE, 76, '\n')}\n\n`)), 1],
		['small', message(part(encoded, wrap('small', 76, '\n'))), 0],
		['the text of the message', message(part('Content-Type: text/plain', LARGE)), 0],
		['lines of unequal length', message(part(encoded, wrap(LARGE, 76, '\n').replace('\n', ''))), 0],
		['lines ended in two ways', message(part(encoded, wrap(LARGE, 76, '\r\n').replace('\r\n', '\n\n'))), 0],
		[
			'a longer line further on',
			message(part(encoded, wrap(LARGE, 76, '\n').replace(/\n([^\n]+)\n([^\n]+)$/, '\n$1$2'))),
			0
		],
		[
			'padding where a line ends',
			message(part(encoded, `${wrap(LARGE.repeat(2).slice(0, 49_151), 64, '\n')}\n${wrap(LARGE, 64, '\n')}`)),
			0
		],
		['padding in the middle', message(part(encoded, `${wrap(LARGE, 76, '\n')}==\nAAAA`)), 0],
		['not base64 at all', message(part(encoded, LARGE)), 0]
	])('%s', (_name, written, count) => {
		const bytes = bytesOf(written);
		const cuts = cutSharedParts(bytes, scanStructure(bytes), platform);
		expect(cuts).toHaveLength(count);
		expect(joinParts(frameOf(bytes, cuts), cuts, platform)).toEqual(bytes);
		for (const { content } of cuts) expect(text.decode(content).trimEnd()).toBe(LARGE.trimEnd());
	});

	it('puts any message together again exactly', () => {
		const piece = fc.oneof(
			fc.constantFrom(LARGE, LARGE.slice(1), `${LARGE}x`).map((content) => [encoded, wrap(content, 76, '\n')] as const),
			fc
				.tuple(fc.integer({ min: 1, max: 200 }), fc.constantFrom('\n', '\r\n', ' \n', '=\n'))
				.map(([length, lineBreak]) => [encoded, wrap(LARGE, length, lineBreak)] as const),
			fc.tuple(fc.constant(encoded), fc.string({ maxLength: 100 })),
			fc.tuple(fc.constant('Content-Type: text/plain'), fc.constantFrom(LARGE, 'text'))
		);
		fc.assert(
			fc.property(fc.array(piece, { maxLength: 4 }), (pieces) => {
				const bytes = bytesOf(message(...pieces.map(([header, body]) => part(header, body))));
				const cuts = cutSharedParts(bytes, scanStructure(bytes), platform);
				expect(text.decode(joinParts(frameOf(bytes, cuts), cuts, platform)) === text.decode(bytes)).toBe(true);
			}),
			{ numRuns: 60 }
		);
	});
});
