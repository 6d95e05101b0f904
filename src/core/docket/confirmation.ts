import { nameKey } from '../weigh/roles.ts';

/** What a person types before something is destroyed (invariant 21). */
export interface Confirmation {
	/** The mailbox's name, where much is destroyed; else a plain word. */
	of: 'mailbox' | 'word';
	/** The text to be typed. */
	text: string;
	/** A longer text that confirms as well. */
	also: readonly string[];
}

/** The word that confirms a small destruction. */
export const DESTROY_WORD = 'destroy';

/**
 * The text a person types before messages are destroyed, at any size.
 *
 * @param messages how many are destroyed
 * @param mailbox.confirmAbove above so many, its name is asked for
 * @returns undefined where nothing is destroyed
 */
export function confirmationFor(
	messages: number,
	mailbox: { name: string; confirmAbove: number }
): Confirmation | undefined {
	if (messages === 0) return undefined;
	return messages > mailbox.confirmAbove
		? { of: 'mailbox', text: mailbox.name, also: [] }
		: { of: 'word', text: DESTROY_WORD, also: [mailbox.name] };
}

/** Whether the typed text confirms; case, accents and surrounding blanks do not count. */
export function isConfirmedBy({ text, also }: Confirmation, typed: string): boolean {
	return [text, ...also].some((one) => nameKey(one) === nameKey(typed));
}
