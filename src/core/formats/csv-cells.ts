/* The signs with which a spreadsheet begins a formula, also in their full width (OWASP, CSV injection). */
const SIGNS = '=+\\-@＝＋－＠';

/*
 * Where a cell may begin: at its own beginning, and behind what a spreadsheet may take for the end of a cell, as one that
 * divides by semicolons does. Blanks and a quote may stand between.
 */
const BEGINS_FORMULA = new RegExp(`(^|[;\\t\\r\\n|])([ \\u00a0\\u3000]*"?[ ]*)(?='*[${SIGNS}])`, 'g');
const APOSTROPHE = new RegExp(`(^|[;\\t\\r\\n|])([ \\u00a0\\u3000]*"?[ ]*)'(?='*[${SIGNS}])`, 'g');

/**
 * A cell that no spreadsheet runs as a formula, whichever sign it divides cells by: an apostrophe stands before what would
 * begin one. Numbers stay as they are.
 */
export function harmlessCell(value: string | number | null): string {
	if (typeof value !== 'string') return value === null ? '' : String(value);
	// a leading tab or line break alone is taken away by some before they look
	return value.replace(BEGINS_FORMULA, "$1$2'").replace(/^(?=[\t\r\n])/, "'");
}

/** The cell that {@link harmlessCell} was given. */
export function originalCell(cell: string): string {
	return cell.replace(/^'(?=[\t\r\n])/, '').replace(APOSTROPHE, '$1$2');
}

/**
 * Options for writing CSV (RFC 4180): lines end with CRLF, and a cell with any line break is quoted. A lone line feed
 * in a subject would otherwise break a row in two.
 */
export const CSV_FORMAT = { record_delimiter: '\r\n', quoted_match: /[\r\n]/ } as const;
