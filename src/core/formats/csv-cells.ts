/**
 * A cell that no spreadsheet runs as a formula: one that begins like one gets an apostrophe in front (OWASP, CSV injection).
 */
export function harmlessCell(value: string | number | null): string {
	const text = value === null ? '' : String(value);
	return typeof value === 'string' && /^[=+\-@\t\r]/.test(text) ? `'${text}` : text;
}

/**
 * How a table is written (RFC 4180): lines end with CRLF, and a cell with a line break of any kind is quoted. Without that, a
 * lone line feed in a subject would make two broken rows of one.
 */
export const CSV_FORMAT = { record_delimiter: '\r\n', quoted_match: /[\r\n]/ } as const;
