import sanitizeHtml from 'sanitize-html';
import { boundHtml, DEEPEST } from '../../../core/message/bound-html.ts';

/** A picture in the message itself. */
export interface Picture {
	type: string;
	content: Uint8Array;
}

const SHOWN_PICTURES = ['image/png', 'image/jpeg', 'image/gif', 'image/webp'];
/* The limit for pictures in the page; larger ones can be downloaded. */
const MOST_PICTURE_BYTES = 12_000_000;
/* A repeated picture is repeated in the page: this limits them together. */
const MOST_SHOWN_CHARACTERS = 20_000_000;

const LENGTH = /^-?\d{1,4}(\.\d+)?(px|pt|em|rem|%)?$/;
const COLOUR = /^(#[0-9a-f]{3,8}|[a-z]{3,20}|rgba?\([\d\s.,%]{5,40}\))$/i;
const WORD = /^[a-z-]{2,20}$/i;
const LENGTHS = [/^(-?\d{1,4}(\.\d+)?(px|pt|em|rem|%)?\s*){1,4}$/, /^auto$/];

/* Excludes properties that fetch, cover or leave the page: no url(), position, z-index or expressions. */
const STYLES = {
	color: [COLOUR],
	'background-color': [COLOUR],
	'font-weight': [/^(bold|normal|[1-9]00)$/],
	'font-style': [WORD],
	'font-size': [LENGTH, WORD],
	'font-family': [/^[\w\s,'"-]{1,230}$/],
	'text-align': [WORD],
	'text-decoration': [WORD],
	'line-height': [LENGTH],
	padding: LENGTHS,
	'padding-left': [LENGTH],
	'padding-right': [LENGTH],
	'padding-top': [LENGTH],
	'padding-bottom': [LENGTH],
	margin: LENGTHS,
	width: [LENGTH],
	'max-width': [LENGTH],
	border: [/^[\w\s#.]{1,60}$/],
	'border-collapse': [WORD],
	'vertical-align': [WORD]
};

/* What a link leads to: a host, an address, a number. */
function destination(href: string): string | undefined {
	try {
		const url = new URL(href);
		return /^https?:$/.test(url.protocol) ? url.host : url.pathname;
	} catch {
		return undefined;
	}
}

function escape(text: string): string {
	return text.replace(/[&<>"]/g, (c) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[c] as string);
}

/* Characters that turn the direction of text (Unicode, UAX 9): what is read is not what is written then. */
const TURNS = /[\u061c\u200e\u200f\u202a-\u202e\u2066-\u2069]/;

/*
 * The target of a link stands after it, unless its text is nothing but that target: hidden, small or turned text may say
 * another. It stands apart from the direction and size of what is around it.
 */
function showDestinations(html: string): string {
	const isTurned = TURNS.test(html);
	return html.replace(
		/<a href="([^"]*)"([^>]*)>([\s\S]*?)<\/a>/g,
		(whole, href: string, rest: string, inner: string) => {
			const target = href.replaceAll('&amp;', '&');
			const place = destination(target);
			if (!place) return whole;
			const says = inner.trim().replaceAll('&amp;', '&').toLowerCase();
			const isSaid = !isTurned && [place, target, target.replace(/\/$/, '')].some((one) => one.toLowerCase() === says);
			return isSaid ? whole : `${whole}<bdi class="leads-to" dir="ltr"> [${escape(place)}]</bdi>`;
		}
	);
}

/* Names the fonts for other scripts behind a font that the message names, which may lack their letters. */
function withOtherScripts(attribs: sanitizeHtml.Attributes): sanitizeHtml.Attributes {
	if (attribs['face']) attribs['face'] += ', OtherScripts';
	if (attribs['style']) attribs['style'] = attribs['style'].replace(/(font-family\s*:\s*[^;!]+)/gi, '$1, OtherScripts');
	return attribs;
}

const PAGE_STYLE = `body{font:15px/1.5 'Source Sans 3',system-ui,OtherScripts,sans-serif;margin:12px;color:#22201c;background:#fff;overflow-wrap:anywhere}
img{max-width:100%;height:auto}table{max-width:100%}blockquote{border-left:3px solid #c9bfa9;margin:0 0 0 4px;padding-left:12px}
.leads-to{color:#6b6457;background:#fff;font:13px/1.4 'Source Sans 3',system-ui,sans-serif;unicode-bidi:isolate}.kept-out{border:1px dashed #8a8272;color:#6b6457;padding:1px 6px;font-size:85%}`;

/**
 * Sanitises the HTML of a message: no scripts, forms, frames or styles that reach outside; nothing is fetched (remote
 * pictures are named instead); the message's own pictures are inserted; links show their targets. The result still
 * needs a sandboxed frame with a policy of its own.
 *
 * @param html as sent
 * @param picture returns a picture of the message by its Content-ID (RFC 2392)
 * @returns a whole page
 */
export async function safeHtml(
	html: string,
	picture: (contentId: string) => Promise<Picture | undefined>
): Promise<string> {
	const wanted = [...new Set([...html.matchAll(/cid:([^"'\s>)]+)/gi)].map((found) => found[1] as string))].slice(
		0,
		200
	);
	const sources = new Map<string, string>();
	let bytes = 0;
	for (const contentId of wanted) {
		const found = await picture(decodeURIComponentSafely(contentId));
		if (!found || !SHOWN_PICTURES.includes(found.type) || bytes + found.content.length > MOST_PICTURE_BYTES) continue;
		bytes += found.content.length;
		sources.set(contentId, `data:${found.type};base64,${Buffer.from(found.content).toString('base64')}`);
	}
	let shown = 0;
	const clean = sanitizeHtml(boundHtml(html).html, {
		// an override of the direction shows words backwards
		allowedTags: [...sanitizeHtml.defaults.allowedTags, 'img', 'center', 'font', 'del', 'ins'].filter(
			(tag) => tag !== 'bdo'
		),
		allowedAttributes: {
			'*': ['style', 'align', 'valign', 'dir', 'lang', 'title', 'class'],
			a: ['href', 'target', 'rel'],
			img: ['src', 'alt', 'width', 'height'],
			font: ['color', 'size', 'face'],
			table: ['border', 'cellpadding', 'cellspacing', 'width', 'bgcolor'],
			td: ['colspan', 'rowspan', 'width', 'height', 'bgcolor'],
			th: ['colspan', 'rowspan', 'width', 'bgcolor'],
			span: ['class']
		},
		allowedClasses: { span: ['kept-out'] },
		allowedSchemes: ['http', 'https', 'mailto', 'tel'],
		allowedSchemesByTag: { img: ['data'] },
		allowProtocolRelative: false,
		allowedStyles: { '*': STYLES },
		disallowedTagsMode: 'discard',
		nestingLimit: 2 * DEEPEST,
		transformTags: {
			'*': (tagName, attribs) => ({ tagName, attribs: withOtherScripts(attribs) }),
			a: (tagName, { href = '' }) => ({
				tagName,
				// a relative link would lead into Kovrel
				attribs: (/^\s*(https?|mailto|tel):/i.test(href)
					? { href: href.trim(), target: '_blank', rel: 'noopener noreferrer nofollow' }
					: {}) as sanitizeHtml.Attributes
			}),
			img: (_tagName, attribs) => {
				const { src = '', alt = '', width = '', height = '' } = attribs;
				const inside = /^cid:/i.test(src) ? sources.get(src.slice(4)) : undefined;
				const fits = inside !== undefined && shown + inside.length <= MOST_SHOWN_CHARACTERS;
				if (fits) {
					shown += inside.length;
					return { tagName: 'img', attribs: { src: inside, alt, width, height } as sanitizeHtml.Attributes };
				}
				const why = inside === undefined ? 'picture not loaded' : 'picture shown too often to be shown again';
				return {
					tagName: 'span',
					attribs: { class: 'kept-out' } as sanitizeHtml.Attributes,
					text: `${why}${alt ? `: ${alt}` : ''}`
				};
			}
		}
	});
	return `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Message</title><style>${PAGE_STYLE}</style></head><body>${showDestinations(clean)}</body></html>`;
}

function decodeURIComponentSafely(text: string): string {
	try {
		return decodeURIComponent(text);
	} catch {
		return text;
	}
}
