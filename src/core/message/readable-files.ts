import type { AttachmentInfo } from './body.ts';

/** Formats of files whose words can be read. */
export type ReadableFormat = 'pdf' | 'ooxml' | 'odf' | 'html' | 'calendar' | 'text';

/* By media type (IANA's register), else by the ending of the name: many files come as octet-stream. */
const FORMATS: [format: ReadableFormat, type: RegExp, ending: RegExp][] = [
	['pdf', /^application\/pdf$/, /\.pdf$/i],
	['ooxml', /^application\/vnd\.openxmlformats-officedocument\./, /\.(docx|xlsx|pptx)$/i],
	['odf', /^application\/vnd\.oasis\.opendocument\./, /\.(odt|ods|odp)$/i],
	['html', /^text\/html$/, /\.html?$/i],
	['calendar', /^text\/calendar$/, /\.ics$/i],
	['text', /^text\/(plain|csv|markdown|tab-separated-values)$/, /\.(txt|csv|md|tsv|log)$/i]
];

/** How the words inside a file can be read; undefined where nobody knows how, and for pictures shown in the text. */
export function readableFormat({
	type,
	name,
	inline
}: Pick<AttachmentInfo, 'type' | 'name' | 'inline'>): ReadableFormat | undefined {
	if (inline) return undefined;
	return (FORMATS.find(([, types]) => types.test(type)) ?? FORMATS.find(([, , endings]) => endings.test(name)))?.[0];
}
