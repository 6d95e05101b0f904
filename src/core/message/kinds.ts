/** Kinds of attachments, in the order of the stored bits. */
export const ATTACHMENT_KINDS = [
	'image',
	'pdf',
	'document',
	'sheet',
	'calendar',
	'message',
	'packed',
	'sound',
	'film',
	'other'
] as const;
export type AttachmentKind = (typeof ATTACHMENT_KINDS)[number];

/*
 * By media type first (RFC 6838, IANA's register), then by the file extension, as many files are sent as
 * octet-stream.
 */
const BY_TYPE: [RegExp, AttachmentKind][] = [
	[/^image\//, 'image'],
	[/^application\/pdf$/, 'pdf'],
	[
		/^(text\/csv|application\/(vnd\.ms-excel|vnd\.openxmlformats-officedocument\.spreadsheetml.*|vnd\.oasis\.opendocument\.spreadsheet))/,
		'sheet'
	],
	[/^text\/calendar$/, 'calendar'],
	[
		/^(text\/|application\/(msword|rtf|vnd\.openxmlformats-officedocument\.(wordprocessing|presentation)ml.*|vnd\.oasis\.opendocument\.(text|presentation)))/,
		'document'
	],
	[/^message\//, 'message'],
	[/^application\/(zip|gzip|x-gzip|x-tar|x-7z-compressed|x-zip-compressed)$/, 'packed'],
	[/^audio\//, 'sound'],
	[/^video\//, 'film']
];
const BY_ENDING: [RegExp, AttachmentKind][] = [
	[/\.(png|jpe?g|gif|bmp|tiff?|webp|heic|svg)$/i, 'image'],
	[/\.pdf$/i, 'pdf'],
	[/\.(csv|xlsx?|ods)$/i, 'sheet'],
	[/\.ics$/i, 'calendar'],
	[/\.(docx?|odt|rtf|txt|md|pptx?|odp|html?)$/i, 'document'],
	[/\.eml$/i, 'message'],
	[/\.(zip|gz|tar|7z)$/i, 'packed'],
	[/\.(mp3|ogg|wav|m4a)$/i, 'sound'],
	[/\.(mp4|mov|avi|mkv|webm)$/i, 'film']
];

/** The kind of a file. */
export function attachmentKind({ type, name }: { type: string; name: string }): AttachmentKind {
	return (
		(BY_TYPE.find(([pattern]) => pattern.test(type)) ?? BY_ENDING.find(([pattern]) => pattern.test(name)))?.[1] ??
		'other'
	);
}

/** The bit under which a kind is stored. */
export function kindBit(kind: AttachmentKind): number {
	return 1 << ATTACHMENT_KINDS.indexOf(kind);
}

/** The bits of all kinds of some files. */
export function kindBits(files: readonly { type: string; name: string }[]): number {
	return files.reduce((bits, file) => bits | kindBit(attachmentKind(file)), 0);
}
