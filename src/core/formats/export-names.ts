/** The columns of the list of messages that lies beside them in an export (RFC 4180). */
export const INDEX_COLUMNS = [
	'file',
	'folder',
	'state',
	'received',
	'from',
	'to',
	'subject',
	'message-id',
	'bytes',
	'sha256'
];

/* Characters that some system forbids in file names (Windows has the longest list), and control characters. */
// eslint-disable-next-line no-control-regex
const UNSAFE = /[\u0000-\u001f\u007f-\u009f<>:"/\\|?*\u202a-\u202e\u2066-\u2069]+/g;
/* Names that Windows reserves for devices, with any ending. */
const RESERVED = /^(con|prn|aux|nul|com\d|lpt\d)(\..*)?$/i;

/* File systems allow 255 bytes a name; some stay for a number and an ending. */
export const MOST_NAME_BYTES = 220;
const encoder = new TextEncoder();

/* As many whole characters as have room. */
function cutToBytes(characters: readonly string[]): string {
	let bytes = 0;
	const end = characters.findIndex((character) => (bytes += encoder.encode(character).length) > MOST_NAME_BYTES);
	return (end < 0 ? characters : characters.slice(0, end)).join('');
}

/**
 * A file or folder name valid on every system; never empty, never a path out of its folder.
 *
 * @param longest in characters
 */
export function safeName(name: string, longest = 80): string {
	const cleaned = cutToBytes([...name.normalize('NFC').replace(UNSAFE, '_')].slice(0, longest))
		.trim()
		.replace(/[. ]+$/, '')
		.replace(/^\.+/, '');
	if (cleaned === '') return '_';
	return RESERVED.test(cleaned) ? `_${cleaned}` : cleaned;
}

/** The folders of an exported message. */
export function exportFolder(path: string): string[] {
	return path.split('/').map((name) => safeName(name));
}

/** The file name of an exported message: date, subject and the item's number, which makes it unique. */
export function exportFileName(
	item: { id: number; receivedOn: string | null; subject: string },
	ending: string
): string {
	return `${safeName(`${item.receivedOn ?? 'undated'} ${item.subject || 'no subject'}`, 70)} (${item.id}).${ending}`;
}
