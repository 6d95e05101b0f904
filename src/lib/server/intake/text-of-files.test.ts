import { execFileSync } from 'node:child_process';
import { deflateRawSync } from 'node:zlib';
import { describe, expect, it } from 'vitest';
import { ZipFile } from 'yazl';
import { pdf } from '../../../../demo/files.ts';
import { textOfFiles } from './text-of-files.ts';
import { textOfOfficeFile } from './office-files.ts';

async function zip(entries: Record<string, string>): Promise<Buffer> {
	const file = new ZipFile();
	for (const [name, text] of Object.entries(entries)) file.addBuffer(Buffer.from(text), name);
	file.end();
	const chunks: Buffer[] = [];
	for await (const chunk of file.outputStream) chunks.push(chunk as Buffer);
	return Buffer.concat(chunks);
}

function message(files: { name: string; type: string; content: Buffer }[]): Buffer {
	const parts = files.map(
		({ name, type, content }) =>
			`--b\r\nContent-Type: ${type}; name="${name}"\r\nContent-Disposition: attachment; filename="${name}"\r\nContent-Transfer-Encoding: base64\r\n\r\n${content.toString('base64').replace(/.{76}/g, '$&\r\n')}\r\n`
	);
	return Buffer.from(
		`From: a@s.example\r\nMIME-Version: 1.0\r\nContent-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\nContent-Type: text/plain\r\n\r\nHello.\r\n${parts.join('')}--b--\r\n`
	);
}

const W = 'xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"';
const A = 'xmlns:a="http://schemas.openxmlformats.org/drawingml/2006/main"';
const S = 'xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"';
const ODF =
	'xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0" xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0"';

/* The smallest valid document of each format: ECMA-376 part 1 (17.3, 18.4, 20.1), ISO/IEC 26300 (5.1, 9.1). */
const DOCX = {
	'word/document.xml': `<w:document ${W}><w:body><w:p><w:r><w:t>Slip</w:t></w:r><w:r><w:t>way lease</w:t></w:r></w:p><w:p><w:r><w:t>Torsay</w:t><w:tab/><w:t>pier &amp; ramp</w:t></w:r></w:p></w:body></w:document>`,
	'word/header1.xml': `<w:hdr ${W}><w:p><w:r><w:t>Confidential</w:t></w:r></w:p></w:hdr>`,
	'word/settings.xml': `<w:settings ${W}><w:t>never shown</w:t></w:settings>`
};
const XLSX = {
	'xl/sharedStrings.xml': `<sst ${S}><si><t>Marine gas oil</t></si><si><r><t>Lub</t></r><r><t>ricant</t></r></si></sst>`,
	'xl/worksheets/sheet1.xml': `<worksheet ${S}><sheetData><row><c t="inlineStr"><is><t>Northfuel</t></is></c><c><v>42</v></c></row></sheetData></worksheet>`
};
const PPTX = {
	'ppt/slides/slide10.xml': `<p:sld xmlns:p="p" ${A}><a:p><a:r><a:t>Second</a:t></a:r></a:p></p:sld>`,
	'ppt/slides/slide2.xml': `<p:sld xmlns:p="p" ${A}><a:p><a:r><a:t>First</a:t></a:r></a:p></p:sld>`
};
const ODT = {
	'content.xml': `<office:document-content ${ODF}><office:body><office:text><text:h>Crew<text:s/>roster</text:h><text:p>Watch of <text:span>Dagny Ås</text:span></text:p></office:text></office:body></office:document-content>`,
	mimetype: 'application/vnd.oasis.opendocument.text'
};
const ODS = {
	'content.xml': `<office:document-content ${ODF}><office:body><table:table><table:table-row><table:table-cell><text:p>Berth</text:p></table:table-cell><table:table-cell><text:p>Fee</text:p></table:table-cell></table:table-row></table:table></office:body></office:document-content>`
};

describe('office documents', () => {
	it.each<[string, Record<string, string>, 'ooxml' | 'odf', string[]]>([
		['docx', DOCX, 'ooxml', ['Slipway lease', 'Torsay pier & ramp', 'Confidential']],
		['xlsx', XLSX, 'ooxml', ['Marine gas oil', 'Lubricant', 'Northfuel']],
		['pptx, slides in their order', PPTX, 'ooxml', ['First', 'Second']],
		['odt', ODT, 'odf', ['Crew roster', 'Watch of Dagny Ås']],
		['ods', ODS, 'odf', ['Berth', 'Fee']]
	])('%s', async (_, entries, kind, lines) => {
		const text = await textOfOfficeFile(await zip(entries), kind);
		const found = text
			.split('\n')
			.map((line) => line.trim())
			.filter(Boolean);
		expect(found).toEqual(lines);
	});

	it.each([
		[
			'an entity that grows',
			`<!DOCTYPE d [<!ENTITY a "ha"><!ENTITY b "&a;&a;&a;">]><w:document ${W}><w:p><w:t>&b;</w:t></w:p></w:document>`
		],
		[
			'an entity from a file',
			`<!DOCTYPE d [<!ENTITY x SYSTEM "file:///etc/passwd">]><w:document ${W}><w:p><w:t>&x;</w:t></w:p></w:document>`
		],
		['XML that is none', '<w:document']
	])('%s is not followed', async (_, xml) => {
		await expect(textOfOfficeFile(await zip({ 'word/document.xml': xml }), 'ooxml')).rejects.toThrow();
	});

	it('one that unpacks to more than anybody writes is left alone', async () => {
		await expect(
			textOfOfficeFile(await zip({ 'word/document.xml': ' '.repeat(33 * 1024 * 1024) }), 'ooxml')
		).rejects.toThrow('unpacked');
	});

	it('a lie about its size is found out', async () => {
		const text = ' '.repeat(40 * 1024 * 1024);
		const honest = await zip({ 'word/document.xml': text });
		const packed = deflateRawSync(text);
		expect(honest.length).toBeGreaterThan(packed.length / 2);
		// the size stands in the central directory, 24 bytes after its signature (PKWARE APPNOTE 4.3.12)
		const at = honest.indexOf(Buffer.from('PK\u0001\u0002'));
		honest.writeUInt32LE(100, at + 24);
		await expect(textOfOfficeFile(honest, 'ooxml')).rejects.toThrow();
	});
});

describe('the files of a message', () => {
	it('are read by type or name; one that cannot be takes nothing from the others', async () => {
		const { text, outcome } = await textOfFiles(
			message([
				pdf('survey.pdf', ['Hull survey of MV Terne', 'No corrosion']),
				{ name: 'lease.docx', type: 'application/octet-stream', content: await zip(DOCX) },
				{ name: 'broken.pdf', type: 'application/pdf', content: Buffer.from('%PDF-1.7 nothing else') },
				{ name: 'rates.csv', type: 'text/csv', content: Buffer.from('port;fee\r\nVesterøy;12', 'latin1') },
				{
					name: 'note.html',
					type: 'text/html',
					content: Buffer.from('<p>Tide <b>table</b><script>alert(1)</script></p>')
				},
				{
					name: 'berth.ics',
					type: 'text/calendar',
					content: Buffer.from(
						'BEGIN:VEVENT\r\nSUMMARY:Berth 5\\, Torsay\r\nDESCRIPTION:Bring the\r\n  lines\r\nUID:hidden@x\r\nEND:VEVENT'
					)
				},
				{ name: 'photo.png', type: 'image/png', content: Buffer.from('no words') }
			])
		);
		expect(outcome).toBe('unreadable');
		for (const words of [
			'Hull survey of MV Terne',
			'No corrosion',
			'Slipway lease',
			'Vesterøy;12',
			'Tide table',
			'Berth 5, Torsay',
			'Bring the lines'
		])
			expect(text).toContain(words);
		for (const words of ['alert', 'hidden@x', 'no words', 'never shown']) expect(text).not.toContain(words);
	});

	// ISO 32000-1, annex H.3, note 13: the header stands in the first 1024 bytes. What has none is not searched for pages.
	it.each([
		['at once', 0, 'read'],
		['behind other bytes', 1000, 'read'],
		['too far behind', 1020, 'unreadable']
	])('a PDF whose header comes %s', async (_name, before, outcome) => {
		const sound = pdf('survey.pdf', ['Hull survey of MV Terne']);
		const content = Buffer.concat([Buffer.alloc(before, ' '), sound.content]);
		expect(await textOfFiles(message([{ ...sound, content }]))).toMatchObject({ outcome });
	});

	it('without files there is nothing', async () => {
		expect(await textOfFiles(message([]))).toEqual({ text: '', outcome: 'nothing' });
	});

	/* Python's standard library unpacks and parses the same document: zipfile and xml.etree. */
	it('a document reads as Python reads it', async () => {
		const program = `
import io, sys, zipfile, xml.etree.ElementTree as tree
w = '{http://schemas.openxmlformats.org/wordprocessingml/2006/main}'
root = tree.fromstring(zipfile.ZipFile(io.BytesIO(sys.stdin.buffer.read())).read('word/document.xml'))
print('\\n'.join(''.join('\\t' if n.tag == w + 'tab' else n.text for n in p.iter() if n.tag in (w + 't', w + 'tab')) for p in root.iter(w + 'p')))
`;
		const content = await zip({ 'word/document.xml': DOCX['word/document.xml'] });
		const theirs = execFileSync('python3', ['-c', program], { input: content, encoding: 'utf8' });
		const ours = await textOfOfficeFile(content, 'ooxml');
		const lines = (text: string) => text.replaceAll('\t', ' ').trim().split('\n');
		expect(lines(ours)).toEqual(lines(theirs));
	});
});
