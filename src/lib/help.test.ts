import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { describe, expect, it } from 'vitest';
import { DECISIONS } from '../core/docket/decisions.ts';
import { ruleOf } from '../core/docket/decisions.ts';
import { GLOSSARY, keysOf, meaningOf } from './help.ts';

const ROUTES = 'src/routes';
const pages = readdirSync(ROUTES, { recursive: true, withFileTypes: true })
	.filter(({ name }) => name === '+page.svelte')
	.map((entry) => ({
		route: `/${path.relative(ROUTES, entry.parentPath)}`,
		text: readFileSync(path.join(entry.parentPath, entry.name), 'utf8')
	}));
const saidKeys = (route: string) => keysOf(route).map(([keys]) => keys);

describe('the help of a page', () => {
	it.each(pages.filter(({ text }) => /<(MessageSheet|LotPage)\b/.test(text)).map(({ route }) => route))(
		'%s, which has the sheet of messages, says its keys',
		(route) =>
			expect(saidKeys(route)).toEqual(expect.arrayContaining(['Space', 'Ctrl A', '1 to 9', '← →', 'F1', 'Esc']))
	);

	it.each([
		['/m/[mailbox=number]/desk', ['1 to 9', '0', '+', 'Backspace', '<', '?', '>']],
		['/m/[mailbox=number]/lists', ['1', '2', '3', '4']],
		['/m/[mailbox=number]/clear/lots', ['Space', '1 to 9']],
		['/m/[mailbox=number]/desk/rules', ['Alt ↑ ↓']],
		['/account', ['F1', 'Esc']],
		[null, ['F1']]
	])('%s', (route, keys) => expect(keysOf(route).map(([key]) => key)).toEqual(expect.arrayContaining(keys)));

	it('speaks of no digit that no decision has', () => {
		const digits = DECISIONS.flatMap((decision) => ruleOf(decision).digit ?? []);
		expect([Math.min(...digits), Math.max(...digits)]).toEqual([1, 9]);
	});

	it('explains every word that a page explains where it stands', () => {
		const asked = readdirSync('src', { recursive: true, encoding: 'utf8' })
			.filter((name) => name.endsWith('.svelte'))
			.flatMap((name) => [...readFileSync(path.join('src', name), 'utf8').matchAll(/<Explain word="([^"]+)"/g)])
			.map(([, word = '']) => word);
		expect(asked.length).toBeGreaterThan(9);
		for (const word of asked) expect(meaningOf(word)).not.toBe('');
	});

	it('explains the words that the guide explains, in the same words', () => {
		const guide = readFileSync('docs/guide/words.md', 'utf8');
		const section = guide.slice(guide.indexOf('\n## Words of Kovrel'));
		const rows = [...section.matchAll(/^\| \*\*(.+?)\*\* *\| (.+?) *\|$/gm)].map(([, word, means]) => [word, means]);
		expect(rows).toEqual(GLOSSARY.map((row) => [...row]));
	});
});
