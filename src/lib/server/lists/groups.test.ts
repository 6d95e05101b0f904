import { readFileSync } from 'node:fs';
import { expect, it } from 'vitest';
import { fieldValue } from '../../../core/message/header.ts';
import { scanStructure } from '../../../core/message/structure.ts';
import { summarise } from '../../../core/message/summary.ts';
import { corpusFiles } from '../testing/corpora.ts';

/* The groups of the corpora, by what their messages say in so many words: each is one list, whoever wrote, and a discussion. */
const GROUPS: readonly [field: string, says: RegExp][] = [
	['mailing-list', /list (\S+@[^\s;]+)/i],
	['x-mailing-list', /<([^<>]+@[^<>]+)>/],
	['list-post', /<mailto:([^<>?]+)>/i],
	['x-beenthere', /(\S+@\S+)/]
];

it('a list is one list: groups of the corpora, with a List-Id and without', () => {
	const lists = new Map<string, Set<string>>();
	const messages = new Map<string, number>();
	const kinds = new Map<string, Set<string>>();
	for (const file of corpusFiles('lists')) {
		const bytes = new Uint8Array(readFileSync(file));
		const root = scanStructure(bytes);
		const group = GROUPS.map(([field, says]) =>
			says.exec(fieldValue(root.header, field) ?? '')?.[1]?.toLowerCase()
		).find((address) => address !== undefined);
		if (group === undefined) continue;
		const summary = summarise(bytes, root);
		lists.set(group, (lists.get(group) ?? new Set()).add(summary?.listId ?? ''));
		kinds.set(group, (kinds.get(group) ?? new Set()).add(summary?.mailKind ?? ''));
		messages.set(group, (messages.get(group) ?? 0) + 1);
	}
	console.info(`${lists.size} groups of ${[...messages.values()].reduce((sum, n) => sum + n, 0)} messages`);
	expect([...lists].filter(([, ids]) => ids.size !== 1).map(([group, ids]) => [group, [...ids]])).toEqual([]);
	// somebody's automatic answer may reach a list as well
	const usual = new Set(['list', 'automatic']);
	expect([...kinds].filter(([, of]) => !of.has('list') || [...of].some((kind) => !usual.has(kind)))).toEqual([]);
	// one of them has no List-Id in most of its messages
	expect(messages.get('zzzzteana@yahoogroups.com')).toBeGreaterThan(80);
	expect(lists.size).toBeGreaterThan(10);
});
