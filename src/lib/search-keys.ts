/** The search syntax with its meaning: the keys mean what those of RFC 9051 section 6.4.4 mean. */
export const SEARCH_KEYS: readonly (readonly [written: string, finds: string])[] = [
	[
		'ramp limit',
		'both words, anywhere: subject, text, names, names of files and words in them; case and accents do not count'
	],
	['"ramp limit"', 'the words in a row'],
	['ramp*', 'words that begin so'],
	['ramp or (quay not light)', 'one or the other; not the word behind "not"; brackets'],
	['from: to: cc: subject: body:', 'words in that place only'],
	['since:2024-03-01 before:2025 on:2024-03-04', 'received on that day or later, before it, on it'],
	['larger:5MB smaller:200kB', 'by size'],
	['attachment:any', 'with a file; also image, pdf, document, sheet, calendar, message, packed, sound, film'],
	['attachment:rost', 'with a file that has this in its name'],
	['folder:Vessels list:harbourtimes', 'in that folder or below it; from that mailing list'],
	['tag:Ramp', 'tagged so, or with a tag below it'],
	['organisation:slipworks.example mailbox:Office', 'from any address of that organisation; in that mailbox'],
	['address:tove@slipworks.example address:none', 'from that address alone; from no address'],
	['thread:12', 'in the thread with that number: an open message leads to its own'],
	['state:live state:archived state:binned', 'where it is now'],
	[
		'kind:person importance:high',
		'kind of mail: person, list, advertisement, notice, travel, automatic; high, normal, low'
	],
	['flagged unread answered kept paused', 'with that standing'],
	['folded', 'put into the next digest, or in one'],
	['undated', 'without a date, or with one that cannot be true'],
	['expired', 'past the date of expiry that its sender gave']
];
