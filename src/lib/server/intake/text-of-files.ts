import { attachmentContent, attachments, textOfHtml } from '../../../core/message/body.ts';
import { decodeUnnamed } from '../../../core/message/charset.ts';
import { type ReadableFormat, readableFormat } from '../../../core/message/readable-files.ts';
import { scanStructure } from '../../../core/message/structure.ts';
import { textOfOfficeFile, TooLargeError } from './office-files.ts';

/** The result of reading the files of a message. */
type Outcome = 'read' | 'nothing' | 'too-large' | 'unreadable';

/** The words inside the files of a message. */
export interface FilesText {
	text: string;
	/** The worst result among them. */
	outcome: Outcome;
}

type Read = (content: Uint8Array) => Promise<string> | string;

/* A reader finds the header of a document in its first 1024 bytes (ISO 32000-1, annex H.3, note 13). */
const PDF_HEADER = '%PDF-';
const HEADER_WITHIN = 1024;

/** @throws Error where it is no PDF: to search all of it for pages takes a second */
async function textOfPdf(content: Uint8Array): Promise<string> {
	if (!Buffer.from(content.buffer, content.byteOffset, Math.min(content.length, HEADER_WITHIN)).includes(PDF_HEADER))
		throw new Error('It has no header of a PDF');
	// loaded with the first document: most messages have none
	const { extractText, getDocumentProxy } = await import('unpdf');
	// its scripts are not run and nothing is fetched: only the text is extracted
	const pdf = await getDocumentProxy(content, {
		isEvalSupported: false,
		disableFontFace: true,
		stopAtErrors: false,
		verbosity: 0
	});
	try {
		const { text } = await extractText(pdf, { mergePages: false });
		return text.join('\n');
	} finally {
		await pdf.destroy();
	}
}

/* The readable text of a calendar; lines are unfolded (RFC 5545 section 3.1). */
function textOfCalendar(content: Uint8Array): string {
	return decodeUnnamed(content)
		.replace(/\r?\n[ \t]/g, '')
		.split(/\r?\n/)
		.flatMap((line) => /^(?:SUMMARY|DESCRIPTION|LOCATION|COMMENT)[^:]*:(.*)$/i.exec(line)?.[1] ?? [])
		.map((value) => value.replace(/\\n/gi, '\n').replace(/\\([,;\\])/g, '$1'))
		.join('\n');
}

const READERS: Record<ReadableFormat, Read> = {
	pdf: textOfPdf,
	ooxml: (content) => textOfOfficeFile(content, 'ooxml'),
	odf: (content) => textOfOfficeFile(content, 'odf'),
	html: (content) => textOfHtml(decodeUnnamed(content)),
	calendar: textOfCalendar,
	text: decodeUnnamed
};

/* A larger file is stored, but not read. */
const LARGEST_FILE = 30 * 1024 * 1024;
/* For one message. */
const LONGEST_TEXT = 512 * 1024;
const WORST: readonly Outcome[] = ['unreadable', 'too-large', 'read', 'nothing'];

const worse = (a: Outcome, b: Outcome) => (WORST.indexOf(a) < WORST.indexOf(b) ? a : b);

/**
 * The words inside the files of a message. An unreadable file does not affect the others; nested messages are read
 * with the message itself.
 *
 * @param bytes the whole message
 */
export async function textOfFiles(bytes: Uint8Array): Promise<FilesText> {
	const root = scanStructure(bytes);
	const texts: string[] = [];
	let length = 0;
	let outcome: Outcome = 'nothing';
	for (const file of attachments(root)) {
		const format = readableFormat(file);
		if (!format || length >= LONGEST_TEXT) continue;
		try {
			if (file.encodedBytes > LARGEST_FILE * 1.4) throw new TooLargeError('a large file');
			const content = attachmentContent(bytes, root, file.index);
			const words = content ? await READERS[format](content) : '';
			// characters that are no letters in any script belong to no word, control characters among them
			// eslint-disable-next-line no-control-regex
			const text = words.replace(/[\u0000-\u0008\u000b-\u001f]+/g, ' ').trim();
			if (text === '') continue;
			texts.push(text.slice(0, LONGEST_TEXT - length));
			length += text.length;
			outcome = worse(outcome, 'read');
		} catch (error) {
			outcome = worse(outcome, error instanceof TooLargeError ? 'too-large' : 'unreadable');
		}
	}
	return { text: texts.join('\n'), outcome };
}
