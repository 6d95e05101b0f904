import { describe, expect, it } from 'vitest';
import { withCrlf, withLf } from './line-ends.ts';

const bytes = (text: string) => new TextEncoder().encode(text);
const textOf = (of: Uint8Array | undefined) => of && new TextDecoder().decode(of);

describe('line ends', () => {
	it.each([
		['', ''],
		['Subject: Ramp', 'Subject: Ramp'],
		['Subject: Ramp\n\nIce\n', 'Subject: Ramp\r\n\r\nIce\r\n'],
		['\n\n', '\r\n\r\n'],
		['Øy\nx', 'Øy\r\nx']
	])('%j of a file is %j as it travels, and back', (filed, travelling) => {
		expect(textOf(withCrlf(bytes(filed)))).toBe(travelling);
		expect(textOf(withLf(bytes(travelling)))).toBe(filed);
	});

	it.each(['a\r\nb\nc\r\n', 'a\rb\r\n', 'a\r', 'a\r\r\n', 'a\nb'])('%j has no form of a file', (mixed) =>
		expect(withLf(bytes(mixed))).toBeUndefined()
	);

	it('of a message that has a CR stay', () => expect(withCrlf(bytes('a\r\nb\n'))).toBeUndefined());
});
