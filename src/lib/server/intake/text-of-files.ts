import { extractText, getDocumentProxy } from 'unpdf';
import { attachmentContent, attachments, textOfHtml } from '../../../core/message/body.ts';
import { decodeUnnamed } from '../../../core/message/charset.ts';
import { type ReadableFormat, readableFormat } from '../../../core/message/readable-files.ts';
import { scanStructure } from '../../../core/message/structure.ts';
import { textOfOfficeFile, TooLargeError } from './office-files.ts';

/** How it went with the files of a message. */
type Outcome = 'read' | 'nothing' | 'too-large' | 'unreadable' | 'took-too-long';

/** The words inside the files of a message. */
export interface FilesText {
	text: string;
	/** The worst that happened to one of them. */
	outcome: Outcome;
}

type Read = (content: Uint8Array) => Promise<string> | string;

async function textOfPdf(content: Uint8Array): Promise<string> {
	// scripts in it are not run, and nothing is fetched: only its text is asked for
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

/* What people read of a calendar; lines are unfolded (RFC 5545 section 3.1). */
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

/* A file that is larger is kept, and not looked into. */
const LARGEST_FILE = 30 * 1024 * 1024;
/* Of one message. */
const LONGEST_TEXT = 512 * 1024;
const WORST: readonly Outcome[] = ['unreadable', 'too-large', 'read', 'nothing'];

const worse = (a: Outcome, b: Outcome) => (WORST.indexOf(a) < WORST.indexOf(b) ? a : b);

/**
 * The words inside the files of a message. A file that cannot be read takes nothing from the others; nested messages are
 * read with the message itself.
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
			// what is not a letter in any script is no word: control characters would only be in the way
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
