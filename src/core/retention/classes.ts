/** The standing of an item as a record; the number is how it is stored. */
export const RECORD_CLASSES = ['transitory', 'working', 'record'] as const;
export type RecordClass = (typeof RECORD_CLASSES)[number];

/** The name of a class and its letter: colour alone never tells classes apart. */
export const CLASS_WORDS: Record<RecordClass, { letter: string; words: string }> = {
	transitory: { letter: 'T', words: 'transitory' },
	working: { letter: 'W', words: 'working papers' },
	record: { letter: 'R', words: 'record' }
};

/** Number of a class, from 1. */
export function classNumber(of: RecordClass): number {
	return RECORD_CLASSES.indexOf(of) + 1;
}

/** The class with a number; unclassed mail is transitory. */
export function classOf(number: number | null): RecordClass {
	return RECORD_CLASSES[(number ?? 1) - 1] ?? 'transitory';
}
