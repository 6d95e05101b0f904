import { nameKey } from '../weigh/roles.ts';

/** The parts of a tag's name: `Vessels/MV Terne` lies below `Vessels`. */
export function tagNames(name: string): string[] {
	return name
		.split('/')
		.map((part) => part.replace(/\s+/g, ' ').trim())
		.filter((part) => part !== '');
}

/** A tag's name as it is compared: without regard to case, accents and blanks around its parts. */
export function tagKey(name: string): string {
	return nameKey(tagNames(name).join('/'));
}

/** Whether a word can be an IMAP keyword: an atom (RFC 9051 section 9). */
export const isKeyword = (word: string): boolean => /^[!#$&'+,./0-9:;<=>?@A-Z[^_`a-z|~-]+$/.test(word);
