import { nameKey } from '../weigh/roles.ts';
import type { Query } from '../search/query.ts';
import { readRuleQuery, type Rule } from './rule.ts';

/* The folders that mail must lie in for a query to find it: those that all of its parts ask for. */
function foldersAsked(query: Query): string[] {
	if (query.kind === 'folder') return [nameKey(query.text)];
	return query.kind === 'and' ? query.parts.flatMap(foldersAsked) : [];
}

/* Whether a query that asks for a folder can find mail in another: the same, by its last name, or one below. */
const finds = (asked: string, path: string) =>
	path === asked || path.startsWith(`${asked}/`) || path.endsWith(`/${asked}`) || path.includes(`/${asked}/`);

/* Longer ways are not followed: in a dense tangle there would be too many of them. */
const LONGEST = 8;

/**
 * The standing decisions that move mail in circles: each moves to a folder from which the next moves on, until the first
 * one's folder is reached again.
 *
 * @param rules any number of them
 * @returns the numbers of each circle, in their order of moving, each circle once
 */
export function circlesAmong(
	rules: readonly (Pick<Rule, 'then' | 'options' | 'query'> & { id: number })[]
): number[][] {
	const moving = rules
		.filter(({ then, options }) => then === 'move' && options.folder)
		.map(({ id, options, query }) => ({
			id,
			to: nameKey(options.folder ?? ''),
			from: foldersAsked(readRuleQuery({ query }))
		}))
		.filter(({ from }) => from.length > 0);
	const next = (to: string) => moving.filter(({ from }) => from.every((asked) => finds(asked, to)));
	const circles = new Map<string, number[]>();
	const walk = (start: number, way: { id: number; to: string }[]) => {
		if (way.length > LONGEST) return;
		const last = way.at(-1);
		if (!last) return;
		for (const one of next(last.to)) {
			if (one.id === start) {
				const ids = way.map(({ id }) => id);
				const least = ids.indexOf(Math.min(...ids));
				const turned = [...ids.slice(least), ...ids.slice(0, least)];
				circles.set(turned.join(' '), turned);
			} else if (one.id > start && !way.some(({ id }) => id === one.id)) walk(start, [...way, one]);
		}
	};
	for (const one of moving) walk(one.id, [one]);
	return [...circles.values()];
}
