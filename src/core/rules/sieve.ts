import type { CalendarDate } from '../calendar.ts';
import { ruleOf } from '../docket/decisions.ts';
import type { Phrase, Query } from '../search/query.ts';
import { isKeyword } from '../tags/names.ts';
import { nameKey } from '../weigh/roles.ts';
import { readRuleQuery, type Rule } from './rule.ts';
import { FIELDS, wordPattern } from './sieve-words.ts';

/** A standing decision that Sieve cannot express, and why. */
interface LeftOfSieve {
	rule: number;
	name: string;
	why: string;
}

/** Standing decisions as a Sieve script. */
export interface SieveScript {
	script: string;
	/** The numbers of those that are written. */
	written: number[];
	left: LeftOfSieve[];
}

/** A standing decision with its number and whether it is on. */
export type NumberedRule = Rule & { id: number; isOn: boolean };

/* What cannot be said of mail at delivery. */
class NotInSieve extends Error {}

/* Each line of this form holds one standing decision, so that the script comes in again unchanged. */
const MARK = '# kovrel-rule: ';

/** A string of Sieve (RFC 5228 section 2.4.2): quotation marks and backslashes are escaped. */
const quoted = (text: string) => `"${text.replaceAll(/["\\]/g, '\\$&')}"`;

/* In patterns of `:matches`, `*` and `?` stand for characters; two backslashes are one in the string. */
const literally = (text: string) => text.replaceAll(/[*?\\]/g, '\\$&');

const WHOLE_WORDS = 'Sieve compares the fields of the header, not the text and the names of files';
const NOT_YET = 'not known at delivery';

/* Whole words of a field, by the extension "regex" that interpreters offer (an Internet draft, not an RFC). */
function wordsTest(phrase: Phrase): string {
	const fields = (phrase.columns ?? []).map((column) => FIELDS[column]);
	if (fields.length === 0 || fields.includes(undefined)) throw new NotInSieve(WHOLE_WORDS);
	const pattern = wordPattern(phrase);
	if (!pattern) throw new NotInSieve('Sieve cannot tell words of this script apart');
	return `header :regex ${fields.map((field) => quoted(field ?? '')).join(', ')} ${quoted(pattern)}`;
}

function testOf(query: Query): string {
	switch (query.kind) {
		case 'and':
			return query.parts.length === 0 ? 'true' : `allof (${query.parts.map(testOf).join(', ')})`;
		case 'or':
			return `anyof (${query.parts.map(testOf).join(', ')})`;
		case 'not':
			return `not ${testOf(query.part)}`;
		case 'address':
			if (query.begun || query.text.toLowerCase() === 'none')
				throw new NotInSieve('only whole addresses can be compared');
			return `address :is :all "from" ${quoted(query.text)}`;
		case 'organisation': {
			if (query.begun || query.text.toLowerCase() === 'none')
				throw new NotInSieve('only whole organisations can be compared');
			const domain = query.text.toLowerCase();
			return `anyof (address :is :domain "from" ${quoted(domain)}, address :matches :domain "from" ${quoted(`*.${literally(domain)}`)})`;
		}
		case 'list': {
			// lists that are recognised without a List-Id have blanks and brackets in their name
			if (!query.text.startsWith('=') || /[<>\s]/.test(query.text))
				throw new NotInSieve('only a list with a List-Id can be recognised at delivery');
			return `header :contains "list-id" ${quoted(`<${query.text.slice(1)}>`)}`;
		}
		case 'larger':
			return `size :over ${query.bytes}`;
		case 'smaller':
			return `size :under ${query.bytes}`;
		case 'state':
			if (query.state === 'live') return 'true';
			throw new NotInSieve(`whether it is ${query.state} is ${NOT_YET}`);
		case 'folder':
			// mail is delivered to the inbox
			if (nameKey(query.text) === 'inbox') return 'true';
			throw new NotInSieve(`the folder is ${NOT_YET}`);
		case 'words':
			return wordsTest(query.phrase);
		case 'attachment-name':
			throw new NotInSieve(WHOLE_WORDS);
		case 'since':
		case 'before':
		case 'on':
			throw new NotInSieve(`the day of receipt is ${NOT_YET}; say from which day to which it stands instead`);
		default:
			throw new NotInSieve(`“${query.kind}” is ${NOT_YET}`);
	}
}

/* Days in which it stands: mail is received on the day of its delivery (RFC 5260 section 5). */
function datesOf({ since, until }: Rule): string[] {
	const test = (relation: 'ge' | 'lt', day: CalendarDate) => `currentdate :value "${relation}" "date" ${quoted(day)}`;
	return [...(since ? [test('ge', since)] : []), ...(until ? [test('lt', until)] : [])];
}

/** The names of folders on the server that carries out a script. */
export interface SievePlaces {
	folder(path: string): string;
	bin: string;
	/** The folder for archived mail and its folders; undefined: archived mail goes into Kovrel alone. */
	archive: ((path: string | undefined) => string) | undefined;
}

const USUAL_PLACES: SievePlaces = {
	folder: (path) => path,
	bin: 'Trash',
	archive: (path) => (path ? `Archive/${path}` : 'Archive')
};

/* What becomes of a message, and the extensions for it. */
function actionOf(
	{ then, options }: Rule,
	{ discards, places }: { discards: boolean; places: SievePlaces }
): { action: string; needs: string[]; isPlace: boolean } {
	const into = (folder: string) => ({
		action: `fileinto :create ${quoted(folder)};`,
		needs: ['fileinto', 'mailbox'],
		isPlace: true
	});
	const flag = (does: 'addflag' | 'removeflag', word: string) => ({
		action: `${does} ${quoted(word)};`,
		needs: ['imap4flags'],
		isPlace: false
	});
	switch (then) {
		case 'archive':
			if (!places.archive) throw new NotInSieve('archived mail goes into Kovrel, not onto the server');
			return into(places.archive(options.folder));
		case 'delete':
			// the bin, unless somebody asks for it: to discard is to destroy
			return discards ? { action: 'discard;', needs: [], isPlace: true } : into(places.bin);
		case 'move':
			return into(places.folder(options.folder ?? ''));
		case 'flag':
			return flag('addflag', '\\Flagged');
		case 'unflag':
			return flag('removeflag', '\\Flagged');
		case 'read':
			return flag('addflag', '\\Seen');
		case 'tag':
		case 'untag':
			if (!isKeyword(options.tag ?? '')) throw new NotInSieve(`“${options.tag ?? ''}” cannot be an IMAP keyword`);
			return flag(then === 'tag' ? 'addflag' : 'removeflag', options.tag ?? '');
		case 'keep':
			return { action: 'keep;', needs: [], isPlace: false };
		default:
			throw new NotInSieve(`to ${ruleOf(then).verb} is nothing that a server does at delivery`);
	}
}

function whyLeft(rule: NumberedRule): string | undefined {
	if (!rule.isOn) return 'it is switched off';
	if (rule.stay.newest !== undefined) return 'how many there are is not known at delivery';
	if (rule.stay.olderThan !== undefined) return 'how old it will become is not known at delivery';
	if (rule.stay.largerInAll !== undefined) return 'how much they weigh together is not known at delivery';
	return undefined;
}

/**
 * Standing decisions as a Sieve script (RFC 5228, with fileinto, mailbox (RFC 5490), imap4flags (RFC 5232), relational
 * and date (RFC 5231, 5260), and regex for words in header fields). Flags are set first, as they go with the message; of several folders the first
 * decides. What Sieve cannot know at delivery is left out, each with its reason, and stands in a comment.
 *
 * @param rules in the order in which they count
 * @param title a line of comment at the top
 * @param options.discards whether the server destroys at once what Kovrel would delete (`discard`), in place of filing it
 *   in the bin
 * @param options.places how that server names the folders
 */
export function sieveOf(
	rules: readonly NumberedRule[],
	title: string,
	{ discards = false, places: named = USUAL_PLACES }: { discards?: boolean; places?: SievePlaces } = {}
): SieveScript {
	const needs = new Set<string>();
	const flags: string[] = [];
	const places: string[] = [];
	const written: number[] = [];
	const left: LeftOfSieve[] = [];
	for (const rule of rules) {
		try {
			const why = whyLeft(rule);
			if (why) throw new NotInSieve(why);
			const tests = [...datesOf(rule), testOf(readRuleQuery(rule))];
			const { action, needs: wanted, isPlace } = actionOf(rule, { discards, places: named });
			const test = tests.length === 1 ? (tests[0] as string) : `allof (${tests.join(', ')})`;
			for (const one of [
				...wanted,
				...(tests.length > 1 ? ['date', 'relational'] : []),
				...(test.includes('header :regex ') ? ['regex'] : [])
			])
				needs.add(one);
			(isPlace ? places : flags).push(`if ${test} {\n    ${action}\n}`);
			written.push(rule.id);
		} catch (error) {
			if (!(error instanceof NotInSieve)) throw error;
			left.push({ rule: rule.id, name: rule.name, why: error.message });
		}
	}
	const oneLine = (text: string) => text.replaceAll(/[\r\n]+/g, ' ');
	const script = [
		`# ${oneLine(title)}`,
		...(needs.size > 0 ? [`require [${[...needs].sort().map(quoted).join(', ')}];`] : []),
		'',
		...rules.map((rule) => `${MARK}${oneLine(JSON.stringify({ ...rule, id: undefined }))}`),
		...left.map(({ name, why }) => `# left out: ${oneLine(name)}: ${why}`),
		'',
		...flags,
		places.join(' els'),
		''
	].join('\n');
	return { script, written, left };
}

/**
 * The standing decisions in a Sieve script that Kovrel wrote, in their order.
 *
 * @throws Error if a line is not as it was written
 */
export function rulesInSieve(script: string): (Rule & { isOn: boolean })[] {
	return script.split(/\r?\n/).flatMap((line, at) => {
		if (!line.startsWith(MARK)) return [];
		try {
			return [JSON.parse(line.slice(MARK.length)) as Rule & { isOn: boolean }];
		} catch (cause) {
			throw new Error(`Line ${at + 1} of the script is not as Kovrel wrote it`, { cause });
		}
	});
}
