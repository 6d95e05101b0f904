import { distance } from 'fastest-levenshtein';
import type { CalendarDate } from '../../../core/calendar.ts';
import { dateInWords } from '../../../core/search/date-words.ts';
import { type Query, readQuery } from '../../../core/search/query.ts';
import { foldWord } from '../../../core/search/words.ts';
import { showDate } from '../../../core/calendar.ts';
import { namesFound, placesNamed, type Search, weighFound, wordsLike } from './search-store.ts';
import { type Context, defineUseCase, text, today } from '../context/index.ts';
import { reachOf } from '../access/index.ts';
import Joi from 'joi';

/** A suggestion. */
export interface Suggestion {
	of: 'person' | 'subject' | 'folder' | 'tag' | 'time' | 'word';
	/** Its label. */
	name: string;
	/** The query with it. */
	query: string;
}

const OF_EACH = 4;
const STATES = ['live', 'archived', 'binned'];

const quoted = (text: string) => `"${text.replaceAll('"', ' ').replace(/\s+/g, ' ').trim()}"`;

/* The edit distance allowed: one letter in a short word. */
const furthest = (word: string) => ([...word].length < 4 ? 0 : [...word].length < 8 ? 1 : 2);

function lastDay(before: CalendarDate): CalendarDate {
	return new Date(Date.parse(`${before}T00:00:00Z`) - 86_400_000).toISOString().slice(0, 10);
}

/* How many similar words are compared. */
const MOST_NEAR = 400;

/*
 * The word closest to the typed one, in mail within the person's reach: other mail neither adds a word nor hides one
 * (invariant 20).
 */
async function nearestWord(context: Context, word: string, search: Omit<Search, 'query'>): Promise<string> {
	const near = (await wordsLike(context.db, word))
		.map((term) => ({ term, off: distance(term, word) }))
		.filter(({ off }) => off <= furthest(word))
		.sort((a, b) => a.off - b.off || (a.term < b.term ? -1 : 1))
		.slice(0, MOST_NEAR);
	let best: { term: string; off: number; messages: number } | undefined;
	for (const { term, off } of near) {
		if (best && off > best.off) break;
		const query = parsed(context, quoted(term));
		const messages = query ? (await weighFound(context.db, { ...search, query })).messages : 0;
		if (messages > (best?.messages ?? 0)) best = { term, off, messages };
	}
	return best?.term ?? word;
}

/* Replaces a word without matches by a similar one, only if that one matches mail within the person's reach. */
async function nearlyRight(context: Context, text: string, search: Omit<Search, 'query'>): Promise<Suggestion[]> {
	const words = text.split(/(\s+)/);
	const better: string[] = [];
	let changed = false;
	for (const word of words) {
		const folded = foldWord(word);
		if (!/^[\p{L}\p{N}]+$/u.test(word) || ['or', 'not'].includes(folded) || furthest(folded) === 0) {
			better.push(word);
			continue;
		}
		const nearest = await nearestWord(context, folded, search);
		changed ||= nearest !== folded;
		better.push(nearest === folded ? word : nearest);
	}
	if (!changed) return [];
	const query = better.join('');
	return (await weighFound(context.db, { ...search, query: readQuery(query, { today: today(context) }) })).messages > 0
		? [{ of: 'word', name: query, query }]
		: [];
}

function parsed(context: Context, text: string): Query | undefined {
	try {
		return readQuery(text, { today: today(context) });
	} catch {
		return undefined;
	}
}

/** Suggestions while a person types: people, subjects, folders, tags, times, and a similar word. */
export async function suggest(context: Context, input: { text: string }): Promise<Suggestion[]> {
	const text = input.text.slice(0, 300);
	const reach = await reachOf(context, 'find');
	const search = { mailboxId: undefined, states: STATES, reach };
	const suggestions: Suggestion[] = [];
	const time = dateInWords(text, today(context));
	if (time) {
		const { words, since, before } = time.meaning;
		suggestions.push({
			of: 'time',
			name: `${words}: ${showDate(since)} to ${showDate(lastDay(before))}`,
			query: `${time.rest} since:${since} before:${before}`.trim()
		});
	}
	const last = /([\p{L}\p{N}][\p{L}\p{N}\p{M}.@_-]*)$/u.exec(text)?.[1];
	// after a key or within quotes the person needs no suggestions
	if (last && [...last].length >= 2 && !/[:"]\S*$/.test(text)) {
		const rest = text.slice(0, text.length - last.length);
		const found = async (column: 'from' | 'subject', of: 'people' | 'subjects') => {
			const query = parsed(context, `${column}:${last}*`);
			return query ? namesFound(context.db, { ...search, query }, of, OF_EACH) : [];
		};
		for (const { name, address } of await found('from', 'people'))
			suggestions.push({
				of: 'person',
				name: name ? `${name} <${address}>` : address,
				query: `${rest}from:${quoted(address)} `
			});
		for (const place of await placesNamed(context.db, { beginning: last, reach, limit: OF_EACH }))
			suggestions.push({ of: place.of, name: place.name, query: `${rest}${place.of}:${quoted(place.name)} ` });
		for (const { name } of await found('subject', 'subjects'))
			suggestions.push({ of: 'subject', name, query: `${rest}subject:${quoted(name)} ` });
		const whole = parsed(context, `${text}*`);
		if (whole && (await weighFound(context.db, { ...search, query: whole })).messages === 0)
			suggestions.unshift(...(await nearlyRight(context, text, search)));
	}
	return suggestions;
}

/** The use cases of this file. */
export const suggestUseCases = [
	defineUseCase({
		name: 'suggest',
		input: () => Joi.object({ text: text.required() }).required(),
		thread: 'heavy',
		right: 'finder',
		run: suggest
	})
] as const;
