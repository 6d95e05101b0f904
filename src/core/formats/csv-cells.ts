/**
 * A cell that no spreadsheet runs as a formula: an apostrophe stands in front of one that begins like a formula
 * (OWASP, CSV injection).
 */
export function harmlessCell(value: string | number | null): string {
	const text = value === null ? '' : String(value);
	return typeof value === 'string' && /^[=+\-@\t\r]/.test(text) ? `'${text}` : text;
}

/**
 * Options for writing CSV (RFC 4180): lines end with CRLF, and a cell with any line break is quoted. A lone line feed
 * in a subject would otherwise break a row in two.
 */
export const CSV_FORMAT = { record_delimiter: '\r\n', quoted_match: /[\r\n]/ } as const;
