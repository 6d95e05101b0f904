/**
 * The word by which settings, searches and the terminal name a class. It stays when the class is renamed, so that
 * carried-out dockets and saved searches keep their meaning.
 */
export type ClassWord = string;

/** The class of mail that nobody has classed: the first, which is never removed and protects nothing. */
export const UNCLASSED: ClassWord = 'transitory';

/** The standing of mail as a record: a row of the office's schedule. */
export interface RecordClass {
	/** How it is stored; the unclassed are 1. */
	id: number;
	word: ClassWord;
	name: string;
	/** One or two letters: colour alone never tells classes apart. */
	letter: string;
	/** Whether its mail is protected as records: nobody deletes it before its time. */
	isProtected: boolean;
	/** What its mail may weigh in each mailbox, in bytes; undefined: no quota. */
	quotaBytes: number | undefined;
	/** The number of the retention for its mail in folders without one; null: none. */
	retentionId: number | null;
}

/** The fields of a class that a person sets. */
export type ClassFields = Pick<RecordClass, 'name' | 'letter' | 'isProtected' | 'quotaBytes'>;

const LONGEST_NAME = 60;

/** The word of a new class: its name in lower case, with hyphens for all that is no letter or digit. */
export function classWord(name: string): ClassWord {
	return name
		.trim()
		.toLowerCase()
		.replaceAll(/[^\p{L}\p{N}]+/gu, '-')
		.replaceAll(/^-|-$/g, '');
}

/**
 * What is wrong with the fields of a class, as a sentence without its full stop; undefined: nothing.
 *
 * @param others the other classes of the office
 * @param isUnclassed whether it is the class of mail that nobody has classed
 */
export function wrongClass(
	{ name, letter, isProtected, quotaBytes }: ClassFields,
	others: readonly Pick<RecordClass, 'name' | 'letter'>[],
	isUnclassed: boolean
): string | undefined {
	if (classWord(name) === '' || name.length > LONGEST_NAME)
		return `A class needs a name of up to ${LONGEST_NAME} letters`;
	if (!/^[\p{L}\p{N}]{1,2}$/u.test(letter))
		return 'A class needs one or two letters by which it is known in the sheets';
	const same = (a: string, b: string) => a.trim().toLowerCase() === b.trim().toLowerCase();
	const named = others.find((other) => same(other.name, name));
	if (named) return `There is a class “${named.name}” already`;
	const lettered = others.find((other) => same(other.letter, letter));
	if (lettered) return `The letter ${lettered.letter} stands for “${lettered.name}” already`;
	if (quotaBytes !== undefined && (!Number.isSafeInteger(quotaBytes) || quotaBytes < 1))
		return 'A quota is a size of at least one byte';
	if (isUnclassed && isProtected) return 'Mail that nobody has classed cannot be protected as records';
	if (isUnclassed && quotaBytes !== undefined)
		return 'Mail that nobody has classed counts against the quota of its mailbox';
	return undefined;
}
