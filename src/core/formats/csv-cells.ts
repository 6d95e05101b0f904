/**
 * A cell that no spreadsheet runs as a formula: one that begins like one gets an apostrophe in front (OWASP, CSV injection).
 */
export function harmlessCell(value: string | number | null): string {
	const text = value === null ? '' : String(value);
	return typeof value === 'string' && /^[=+\-@\t\r]/.test(text) ? `'${text}` : text;
}
