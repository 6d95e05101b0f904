import type { AttachmentInfo } from './body.ts';

/** File formats with readable words. */
export type ReadableFormat = 'pdf' | 'ooxml' | 'odf' | 'html' | 'calendar' | 'text';

/* By media type (IANA's register), else by the file extension: many files are sent as octet-stream. */
const FORMATS: [format: ReadableFormat, type: RegExp, ending: RegExp][] = [
	['pdf', /^application\/pdf$/, /\.pdf$/i],
	['ooxml', /^application\/vnd\.openxmlformats-officedocument\./, /\.(docx|xlsx|pptx)$/i],
	['odf', /^application\/vnd\.oasis\.opendocument\./, /\.(odt|ods|odp)$/i],
	['html', /^text\/html$/, /\.html?$/i],
	['calendar', /^text\/calendar$/, /\.ics$/i],
	['text', /^text\/(plain|csv|markdown|tab-separated-values)$/, /\.(txt|csv|md|tsv|log)$/i]
];

/** The reader for a file's words; undefined for unknown formats and for pictures shown in the text. */
export function readableFormat({
	type,
	name,
	inline
}: Pick<AttachmentInfo, 'type' | 'name' | 'inline'>): ReadableFormat | undefined {
	if (inline) return undefined;
	return (FORMATS.find(([, types]) => types.test(type)) ?? FORMATS.find(([, , endings]) => endings.test(name)))?.[0];
}
