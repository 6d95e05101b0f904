import { describe, expect, it } from 'vitest';
import { joinFlowed } from '../message/decoding.ts';
import { flowText, quoteText } from './flowed.ts';

const LONG = 'The ferry to Torsay leaves at noon and carries the crates that were left on the quay last week. '
	.repeat(3)
	.trim();

describe('flowed text (RFC 3676)', () => {
	it.each([
		['a short line', 'Hello.', 'Hello.'],
		['a blank at the end, which would be a soft break (4.2)', 'Hello. \nNext', 'Hello.\nNext'],
		['a blank at the start is stuffed (4.4)', ' indented', '  indented'],
		['"From " at the start is stuffed (4.4)', 'From here on', ' From here on'],
		['the line above a signature is kept (4.3)', 'Bye\n-- \nYlva', 'Bye\n-- \nYlva'],
		['quoted lines keep their depth (4.5)', '> one\n> > two\n>>three', '> one\n>> two\n>> three'],
		['an empty quoted line', '>\n> a', '>\n> a'],
		['line ends of other systems', 'a\r\nb\rc', 'a\nb\nc'],
		['a word longer than a line', `x${'y'.repeat(100)} z`, `x${'y'.repeat(100)} \nz`]
	])('%s', (_name, text, expected) => {
		expect(flowText(text)).toBe(expected);
	});

	it.each([
		['plain', LONG],
		['quoted', `> ${LONG}`],
		['quoted twice', `>> ${LONG}`]
	])('breaks a %s paragraph at 78 characters or fewer, and a reader joins it again', (_name, text) => {
		const flowed = flowText(text);
		expect(Math.max(...flowed.split('\n').map((line) => line.length))).toBeLessThanOrEqual(78);
		expect(flowed.split('\n').length).toBeGreaterThan(3);
		expect(
			flowed
				.split('\n')
				.slice(0, -1)
				.every((line) => line.endsWith(' '))
		).toBe(true);
	});

	it('is read as it was written', () => {
		const text = `Dear Nora,\n\n${LONG}\n indented\nFrom the quay\n\nYlva`;
		expect(joinFlowed(flowText(text), false).trimEnd()).toBe(text);
	});

	it('quotes each line one level deeper, and no more than a hundred thousand characters', () => {
		expect(quoteText('a\n\n> b\nc\n\n')).toBe('> a\n>\n>> b\n> c');
		expect(quoteText('x'.repeat(20), 10)).toBe(`> ${'x'.repeat(10)}\n> […]`);
	});
});
