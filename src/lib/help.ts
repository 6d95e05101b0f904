/* What the help of a page shows: its keys, and the words that are Kovrel's own. The guide's glossary is the same list. */

/** A key, and what it does. */
export type KeyHelp = readonly [keys: string, does: string];

const EVERYWHERE: readonly KeyHelp[] = [
	['F1', 'opens this help'],
	['Esc', 'closes what is open, else clears the selection']
];

const SHEET: readonly KeyHelp[] = [
	['↑ ↓', 'go to the message above or below; Home and End to the first and the last'],
	['Space', 'selects a message; with Shift, all from the last one on'],
	['Shift ↑ ↓', 'selects messages one after the other'],
	['Ctrl A', 'selects all of the page'],
	['Enter', 'opens the message'],
	['1 to 9', 'decide on the selected messages, or on the one with the focus; each digit stands on its button'],
	['← →', 'open the message before or after, with one open']
];
const LOTS: readonly KeyHelp[] = [
	['↑ ↓', 'go to the lot above or below'],
	['Space', 'selects a lot; with Shift, all from the last one on'],
	['Ctrl A', 'selects all lots'],
	['Enter', 'opens the lot'],
	['1 to 9', 'decide on the selected lots']
];
const LISTS: readonly KeyHelp[] = [
	['↑ ↓', 'go to the list above or below'],
	['Space', 'selects a list; with Shift, all from the last one on'],
	['Enter', 'opens the list'],
	['1', 'unsubscribes from the selected lists'],
	['2', 'blocks them'],
	['3', 'folds them into the digest'],
	['4', 'trusts them']
];
const DESK: readonly KeyHelp[] = [
	['1 to 9', 'decide on the message; the next one comes by itself'],
	['0', 'puts it off'],
	['+', 'puts it on a pile'],
	['Backspace', 'takes back the last decision'],
	['<', 'replies'],
	['?', 'archives the thread until it is answered'],
	['>', 'makes a standing decision of it']
];
const RULES: readonly KeyHelp[] = [
	['↑ ↓', 'go to the decision above or below'],
	['Alt ↑ ↓', 'move it up or down in the order'],
	['Enter', 'opens its row']
];
const FOLDERS: readonly KeyHelp[] = [
	['↑ ↓', 'go to the folder above or below'],
	['Space', 'selects it']
];

/* By the address of a route; the first that fits. */
const PAGES: readonly [RegExp, readonly KeyHelp[]][] = [
	[/\/clear\/lots$|^\/lots$/, LOTS],
	[/\/lists$/, LISTS],
	[/\/desk$/, DESK],
	[/\/desk\/rules$/, RULES],
	[/\/clear\/folders$|^\/retain\/folders$/, FOLDERS],
	[
		/\/archive$|\/folders\/|\/clear\/(bin|proposals\/)|\/lots\/|\/lists\/\[|^\/find$|^\/own\/mail$|^\/retain\/(due|reviews\/)|\/clear\/proposals$/,
		SHEET
	]
];

/** The keys of a page, by the address of its route. */
export const keysOf = (routeId: string | null): readonly KeyHelp[] => [
	...(PAGES.find(([route]) => route.test((routeId ?? '').replaceAll('=number', '').replace('/(together)', '')))?.[1] ??
		[]),
	...EVERYWHERE
];

/** Kovrel's own words, each in one line. */
export const GLOSSARY: readonly [word: string, means: string][] = [
	['awaited', 'said of a thread that comes back when an answer arrives, or on a day that you set'],
	['carry out', 'do what a docket says'],
	['certificate', 'the document that proves a destruction: what, when, under which series, by whose decision'],
	['desk', 'the daily round: one message at a time, one decision each'],
	['docket', 'a list of decisions that is prepared first, with exact counts; nothing happens until it is carried out'],
	['hold', 'a legal hold: nobody can delete or destroy the mail under it until it is released'],
	['keep-list', 'words, names and subjects; the mail in which they occur is kept'],
	['ledger', 'the record of everything that was done, by whom and when, sealed line by line'],
	['lot', 'messages that share something and are decided on together: a sender, a list, a thread, a year'],
	['pause', 'ordinary mail that is not deleted before a date, with a reason'],
	['pile', 'a folder of your own for mail that still needs something; it is meant to become empty'],
	['series', 'one line of the retention schedule: what starts the period, how long it is, what happens at its end'],
	['stand-in', 'a small simulated service of the demo, in place of one outside'],
	['standing decision', 'a decision for mail still to come, or for mail that reaches an age'],
	['take back', 'undo a docket: messages return to where they were; destroyed mail does not']
];

/** What one of Kovrel's own words means. @throws Error for a word that is not explained */
export function meaningOf(word: string): string {
	const means = GLOSSARY.find(([known]) => known === word)?.[1];
	if (means === undefined) throw new Error(`“${word}” is not explained`);
	return means;
}
