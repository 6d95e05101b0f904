/*
 * One pass over HTML before any parser sees it: parsers take quadratic time in the depth of nesting, and a message
 * can nest without limit.
 */

/** The limit for HTML that is read, in characters: HTML is mostly markup. */
export const LONGEST_HTML = 2 * 1024 * 1024;
/** The limit for nesting; of deeper elements only the text stays, without tags. */
export const DEEPEST = 80;
/* A longer tag loses its attributes. */
const LONGEST_TAG = 8_000;
/* The limit for tags, far above a written page; after it only the text stays. */
const MOST_TAGS = 60_000;
/* How many open elements an end tag is compared with. */
const FAR_UP = 40;

/* Elements without an end (WHATWG HTML, 13.1.2 void elements). */
const VOID = new Set([
	'area',
	'base',
	'br',
	'col',
	'embed',
	'hr',
	'img',
	'input',
	'link',
	'meta',
	'source',
	'track',
	'wbr'
]);
/* Elements that show nothing or contain no HTML: removed whole. */
const SILENT = new Set(['script', 'style', 'template', 'iframe', 'svg', 'math', 'xmp']);
/* Of these, everything to the end of the message belongs to one without an end, as browsers read it. */
const TO_THE_END = new Set(['script', 'style', 'iframe', 'xmp']);
/* Elements that one of these closes (WHATWG HTML, 13.1.2.4 optional tags). */
const ENDS: Record<string, readonly string[]> = {
	p: ['p'],
	div: ['p'],
	table: ['p'],
	ul: ['p'],
	ol: ['p'],
	li: ['p', 'li'],
	dt: ['p', 'dt', 'dd'],
	dd: ['p', 'dt', 'dd'],
	td: ['p', 'td', 'th'],
	th: ['p', 'td', 'th'],
	tr: ['p', 'td', 'th', 'tr'],
	tbody: ['p', 'td', 'th', 'tr', 'tbody', 'thead', 'tfoot'],
	thead: ['p', 'td', 'th', 'tr', 'tbody', 'thead', 'tfoot'],
	tfoot: ['p', 'td', 'th', 'tr', 'tbody', 'thead', 'tfoot'],
	option: ['option']
};

/** HTML that any parser reads in linear time. */
export interface BoundHtml {
	html: string;
	/** Whether it is complete; the end of very long HTML is cut off. */
	isWhole: boolean;
}

interface Open {
	name: string;
	isKept: boolean;
}

/* The end of a tag, after quoted values, which may contain `>`; -1: none. */
function endOfTag(html: string, from: number): number {
	let quote = '';
	// a tag that does not end within this length is none
	const last = Math.min(html.length, from + 16 * LONGEST_TAG);
	for (let at = from; at < last; at++) {
		const character = html[at] as string;
		if (quote !== '') {
			if (character === quote) quote = '';
		} else if (character === '>') return at;
		else if ((character === '"' || character === "'") && html[at - 1] === '=') quote = character;
	}
	return html.indexOf('>', from);
}

const NAME = /[a-z][a-z0-9:-]*/iy;

/**
 * Bounds the length and depth of HTML in one pass. Its text stays whole and in order; comments and scripts are
 * removed.
 */
export function boundHtml(source: string): BoundHtml {
	const html = source.length > LONGEST_HTML ? source.slice(0, LONGEST_HTML) : source;
	const kept: string[] = [];
	const open: Open[] = [];
	let depth = 0;
	let tags = 0;
	let commentsEnd = true;
	// looked for once: a hostile message opens many that never end
	const endless = new Set<string>();
	const close = (count: number) => {
		for (const { isKept } of open.splice(open.length - count, count)) if (isKept) depth--;
	};
	for (let at = 0; at < html.length;) {
		const next = html.indexOf('<', at);
		if (next === -1) {
			kept.push(html.slice(at));
			break;
		}
		if (next > at) kept.push(html.slice(at, next));
		if (html.startsWith('<!--', next)) {
			// `<!-->` is whole (WHATWG HTML, 13.2.5.43); one without an end hides nothing
			const end: number = commentsEnd ? html.indexOf('-->', next + 2) : -1;
			commentsEnd = end !== -1;
			at = end === -1 ? next + 4 : end + 3;
			continue;
		}
		const isEnd = html[next + 1] === '/';
		NAME.lastIndex = next + (isEnd ? 2 : 1);
		const name = NAME.exec(html)?.[0].toLowerCase();
		const isOther = html[next + 1] === '!' || html[next + 1] === '?';
		if (name === undefined && !isEnd && !isOther) {
			// a plain character: "3 < 4"
			kept.push('&lt;');
			at = next + 1;
			continue;
		}
		const end = endOfTag(html, next + 1);
		if (end === -1) break;
		at = end + 1;
		if (name === undefined) continue;
		if (!isEnd && SILENT.has(name)) {
			const after = endless.has(name) ? undefined : behind(html, name, at);
			if (after === undefined) endless.add(name);
			at = after ?? (TO_THE_END.has(name) ? html.length : at);
			continue;
		}
		const tag = at - next > LONGEST_TAG ? `<${isEnd ? '/' : ''}${name}>` : html.slice(next, at);
		if (isEnd) {
			const above = open.slice(-FAR_UP).findLastIndex((one) => one.name === name);
			if (above === -1) continue;
			const from = Math.max(0, open.length - FAR_UP) + above;
			if ((open[from] as Open).isKept) kept.push(tag);
			close(open.length - from);
			continue;
		}
		const ends = ENDS[name];
		while (ends && open.length > 0 && ends.includes((open.at(-1) as Open).name)) close(1);
		const isKept = depth < DEEPEST && tags < MOST_TAGS;
		if (isKept) {
			kept.push(tag);
			tags++;
		} else if (BREAKS.has(name) && kept.at(-1) !== ' ') kept.push(' ');
		if (VOID.has(name) || tag.endsWith('/>')) continue;
		open.push({ name, isKept });
		if (isKept) depth++;
	}
	return { html: kept.join(''), isWhole: html.length === source.length };
}

/* Words on both sides of these are separate: a blank replaces their tag. */
const BREAKS = new Set([
	'br',
	'div',
	'p',
	'td',
	'th',
	'tr',
	'li',
	'table',
	'hr',
	'dd',
	'dt',
	'h1',
	'h2',
	'h3',
	'h4',
	'h5',
	'h6',
	'blockquote',
	'pre'
]);

/* The offset after an element whose content is removed; undefined: it has no end. */
function behind(html: string, name: string, from: number): number | undefined {
	const end = new RegExp(`</${name}\\s*>`, 'gi');
	end.lastIndex = from;
	return end.test(html) ? end.lastIndex : undefined;
}
