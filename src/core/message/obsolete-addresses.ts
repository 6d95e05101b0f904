/*
 * Comments, routes and blanks within addresses (RFC 5322 sections 3.2.2 and 4.4): what readers of addresses stumble over is
 * taken out before they read.
 */

/* Nearly all fields have nothing of it. */
const MAY_HAVE = /[()]|<\s*@|\s[.@]|@\s|@[^\s<>,;"]*\.\s/;

/* An address without a name: blanks around its dots and its sign are none of it. */
function bare(text: string): string {
	return text.includes('@') && !text.includes('<') && !text.includes('"') ? text.replace(/\s*([.@])\s*/g, '$1') : text;
}

/* `@one.example,@two.example:ada@home.example` is the address behind its route. */
const withoutRoute = (address: string) => address.replace(/\s+/g, '').replace(/^@[^:]*:/, '');

/**
 * An address field as today's syntax would write it. A comment behind an address without a name is kept: it is the name
 * there (common practice).
 *
 * @param value the unfolded field value
 */
export function withoutObsolete(value: string): string {
	if (!MAY_HAVE.test(value)) return value;
	let written = '';
	let element = '';
	let comment = '';
	let angle: string | undefined;
	let hasComments = true;
	const end = (separator: string) => {
		const isNameless =
			element.includes('@') && (!element.includes('<') || element.replace(/<[^>]*>/, '').trim() === '');
		written += bare(element.trim());
		if (comment.trim() !== '' && isNameless) written += ` (${comment.replace(/[()\\]/g, ' ').trim()})`;
		written += separator;
		element = '';
		comment = '';
	};
	for (let at = 0; at < value.length; at++) {
		const sign = value[at] as string;
		if (sign === '"') {
			const from = at++;
			while (at < value.length && value[at] !== '"') at += value[at] === '\\' ? 2 : 1;
			const quoted = value.slice(from, at + 1);
			if (angle === undefined) element += quoted;
			else angle += quoted;
		} else if (sign === '(' && hasComments) {
			const from = at + 1;
			let depth = 1;
			while (depth > 0 && ++at < value.length) {
				if (value[at] === '\\') at++;
				else if (value[at] === '(') depth++;
				else if (value[at] === ')') depth--;
			}
			// one that never ends is none: nothing behind it may be lost
			if (depth > 0) {
				at = from - 1;
				hasComments = false;
				if (angle === undefined) element += sign;
				else angle += sign;
			} else if (angle === undefined) comment = value.slice(from, at);
		} else if (angle !== undefined) {
			if (sign === '>') {
				element += `<${withoutRoute(angle)}>`;
				angle = undefined;
			} else angle += sign;
		} else if (sign === '<') angle = '';
		else if (sign === ',' || sign === ';') end(sign);
		else if (sign === ':') {
			// the name of a group
			comment = '';
			end(sign);
		} else element += sign;
	}
	// broken off within brackets
	if (angle !== undefined) element += `<${angle}`;
	end('');
	return written;
}
