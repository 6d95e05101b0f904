import { SaxesParser } from 'saxes';
import { fromBuffer, type Entry, type ZipFile } from 'yauzl';

/*
 * Office documents in open formats are zip files of XML: OOXML (ECMA-376) and ODF (ISO/IEC 26300). yauzl reads the
 * zip, saxes the XML; it knows no entities but those of XML itself and fetches nothing.
 */

/** Larger than any written document: perhaps made to fill the memory. */
export class TooLargeError extends Error {
	override name = 'TooLargeError';
}

/* Unpacked bytes read of one document. */
const MOST_BYTES = 32 * 1024 * 1024;
const MOST_ENTRIES = 5_000;

interface Form {
	/** The entries with text. */
	entries: RegExp;
	/** Elements whose text counts; undefined: all. */
	text: RegExp | undefined;
	/** Elements that end a line. */
	breaks: RegExp;
	/** Elements that stand for a blank. */
	blanks: RegExp;
}

const FORMS: Record<'ooxml' | 'odf', Form> = {
	ooxml: {
		entries:
			/^(word\/(document|header\d*|footer\d*|footnotes|endnotes|comments)\.xml|xl\/(sharedStrings|comments\d*)\.xml|xl\/worksheets\/[^/]+\.xml|ppt\/(slides|notesSlides)\/[^/]+\.xml)$/,
		text: /^(w:t|t|a:t|x:t)$/,
		breaks: /^(w:p|a:p|si|is|w:br|w:cr|w:tr)$/,
		blanks: /^w:tab$/
	},
	odf: {
		entries: /^(content|styles)\.xml$/,
		text: /^(text:p|text:h)$/,
		breaks: /^(text:p|text:h|table:table-row|text:line-break)$/,
		blanks: /^(text:s|text:tab|table:table-cell)$/
	}
};

function textOfXml(xml: string, form: Form): string {
	const parser = new SaxesParser();
	let text = '';
	let depth = 0;
	parser.on('error', (error) => {
		throw error;
	});
	parser.on('opentag', ({ name }) => {
		if (depth > 0 || form.text?.test(name) !== false) depth++;
		if (form.blanks.test(name)) text += ' ';
	});
	parser.on('text', (found) => {
		if (depth > 0) text += found;
	});
	parser.on('closetag', ({ name }) => {
		if (depth > 0) depth--;
		if (form.breaks.test(name)) text += '\n';
	});
	parser.write(xml).close();
	return text;
}

function open(content: Uint8Array): Promise<ZipFile> {
	return new Promise((resolve, reject) => {
		fromBuffer(
			Buffer.from(content.buffer, content.byteOffset, content.byteLength),
			{ lazyEntries: true },
			(error, zip) => (error ? reject(error) : resolve(zip))
		);
	});
}

function entriesOf(zip: ZipFile): Promise<Entry[]> {
	return new Promise((resolve, reject) => {
		const entries: Entry[] = [];
		zip.on('entry', (entry: Entry) => {
			if (entries.push(entry) > MOST_ENTRIES) reject(new TooLargeError(`more than ${MOST_ENTRIES} entries`));
			else zip.readEntry();
		});
		zip.on('end', () => resolve(entries));
		zip.on('error', reject);
		zip.readEntry();
	});
}

/* The size that an entry claims may be wrong: unpacked bytes are counted. */
async function unpack(zip: ZipFile, entry: Entry, most: number): Promise<Buffer> {
	const stream = await zip.openReadStreamPromise(entry);
	const chunks: Buffer[] = [];
	let bytes = 0;
	for await (const chunk of stream as AsyncIterable<Buffer>) {
		bytes += chunk.length;
		if (bytes > most) throw new TooLargeError(`more than ${MOST_BYTES} bytes unpacked`);
		chunks.push(chunk);
	}
	return Buffer.concat(chunks);
}

/**
 * The text of an office document.
 *
 * @throws TooLargeError, or Error where it is no such document
 */
export async function textOfOfficeFile(content: Uint8Array, kind: 'ooxml' | 'odf'): Promise<string> {
	const form = FORMS[kind];
	const zip = await open(content);
	try {
		const wanted = (await entriesOf(zip)).filter(({ fileName }) => form.entries.test(fileName));
		const texts: string[] = [];
		let left = MOST_BYTES;
		for (const entry of wanted.sort((a, b) => a.fileName.localeCompare(b.fileName, 'en', { numeric: true }))) {
			if (entry.uncompressedSize > left) throw new TooLargeError(`more than ${MOST_BYTES} bytes unpacked`);
			const xml = await unpack(zip, entry, left);
			left -= xml.length;
			texts.push(textOfXml(xml.toString('utf8'), form));
		}
		return texts.join('\n');
	} finally {
		zip.close();
	}
}
