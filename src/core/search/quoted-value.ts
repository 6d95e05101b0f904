/**
 * A value as it stands in a search: in quotation marks, with a backslash before a quotation mark or a backslash in it, as in
 * quoted strings of RFC 9051.
 *
 * @param key such as `address`; undefined: the value stands alone
 */
export function quotedValue(value: string, key?: string): string {
	return `${key === undefined ? '' : `${key}:`}"${value.replace(/["\\]/g, '\\$&')}"`;
}

/** The value in quotation marks, as it was before {@link quotedValue}. Other backslashes stand for themselves. */
export const unquotedValue = (inside: string): string => inside.replace(/\\(["\\])/g, '$1');
