import { refusalIn } from './machine-trouble.ts';

/**
 * Makes a note of what was done without changing any mail, such as an export. Where nothing can be written now, what was
 * done stands without it.
 *
 * @returns whether it was noted
 */
export async function noteIfPossible(note: () => Promise<unknown>): Promise<boolean> {
	try {
		await note();
		return true;
	} catch (error) {
		if (refusalIn(error)?.code !== 'no-writing') throw error;
		return false;
	}
}
