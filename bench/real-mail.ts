import { createWriteStream, readFileSync } from 'node:fs';
import { once } from 'node:events';
import { deflateSync } from 'node:zlib';
import { ZipFile } from 'yazl';
import { photograph } from '../demo/files.ts';
import { Dice } from '../demo/random.ts';
import { CORPORA, corpusFiles } from '../src/lib/server/testing/corpora.ts';

/*
 * Mail made of real mail: headers, structures and lines of text of the corpora (Debian's packages, see testing/corpora),
 * recombined line by line, so that no message and no file is like another and words are as frequent as in real text.
 */

/** How many messages have a file of their own beside those of the corpora. */
export interface RealMailOptions {
	/** Share of messages that get a file, 0 to 1; 0: only the files that the corpora have. */
	files: number;
	seed?: number;
}

const BOUNDARY = /boundary="?([^";\r\n]+)"?/gi;
const ENCODED_LINE = 57;

/* Lines of text by what they are, to be drawn from. */
interface Pool {
	plain: string[];
	other: string[];
	html: string[];
}

const isText = (line: string) => line.trim() !== '' && !line.startsWith('--');
function poolOf(messages: readonly string[]): Pool {
	const pool: Pool = { plain: [], other: [], html: [] };
	for (const raw of messages) {
		const body = raw.slice(raw.search(/\n\r?\n/));
		if (/content-transfer-encoding:\s*base64/i.test(raw)) continue;
		for (const line of body.split(/\r?\n/)) {
			if (!isText(line)) continue;
			const bare = line.replace(/^[>| ]+/, '');
			if (bare === '') continue;
			if (/<\/?\w+[^>]*>/.test(bare)) pool.html.push(bare);
			else if (/[^\x20-\x7e\t]|=[0-9A-F]{2}/.test(bare)) pool.other.push(bare);
			else pool.plain.push(bare);
		}
	}
	return pool;
}

/* A PDF of pages of text in compressed streams, as office programs write them (ISO 32000-1). */
function pdfOf(lines: readonly string[], noise: Buffer): Buffer {
	const text = deflateSync(
		Buffer.from(
			`BT /F1 10 Tf 50 800 Td 12 TL ${lines.map((line) => `(${line.replace(/[\\()]/g, '\\$&')}) Tj T*`).join(' ')} ET`,
			'latin1'
		)
	);
	const stream = (head: string, bytes: Buffer) =>
		Buffer.concat([Buffer.from(`<< ${head} /Length ${bytes.length} >>\nstream\n`), bytes, Buffer.from('\nendstream')]);
	const objects = [
		Buffer.from('<< /Type /Catalog /Pages 2 0 R >>'),
		Buffer.from('<< /Type /Pages /Kids [3 0 R] /Count 1 >>'),
		Buffer.from(
			'<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] /Contents 5 0 R /Resources << /Font << /F1 4 0 R >> /XObject << /I 6 0 R >> >> >>'
		),
		Buffer.from('<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>'),
		stream('/Filter /FlateDecode', text),
		stream('/Type /XObject /Subtype /Image /Width 64 /Height 64 /ColorSpace /DeviceGray /BitsPerComponent 8', noise)
	];
	const parts = [Buffer.from('%PDF-1.5\n')];
	const offsets: number[] = [];
	let length = 9;
	for (const [at, object] of objects.entries()) {
		offsets.push(length);
		const whole = Buffer.concat([Buffer.from(`${at + 1} 0 obj\n`), object, Buffer.from('\nendobj\n')]);
		parts.push(whole);
		length += whole.length;
	}
	const entries = offsets.map((offset) => `${String(offset).padStart(10, '0')} 00000 n \n`).join('');
	parts.push(
		Buffer.from(
			`xref\n0 ${objects.length + 1}\n0000000000 65535 f \n${entries}trailer << /Size ${objects.length + 1} /Root 1 0 R >>\nstartxref\n${length}\n%%EOF\n`
		)
	);
	return Buffer.concat(parts);
}

/* A document of the Office Open XML kind (ECMA-376): text and a picture in a zip. */
async function documentOf(lines: readonly string[], picture: Buffer): Promise<Buffer> {
	const zip = new ZipFile();
	const escaped = (line: string) => line.replace(/[<>&]/g, ' ');
	zip.addBuffer(
		Buffer.from(
			'<?xml version="1.0"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="xml" ContentType="application/xml"/></Types>'
		),
		'[Content_Types].xml'
	);
	zip.addBuffer(
		Buffer.from(
			`<?xml version="1.0"?><w:document xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"><w:body>${lines.map((line) => `<w:p><w:r><w:t>${escaped(line)}</w:t></w:r></w:p>`).join('')}</w:body></w:document>`
		),
		'word/document.xml'
	);
	zip.addBuffer(picture, 'word/media/image1.png', { compress: false });
	zip.end();
	const chunks: Buffer[] = [];
	for await (const chunk of zip.outputStream) chunks.push(chunk as Buffer);
	return Buffer.concat(chunks);
}

function noiseOf(dice: Dice, bytes: number): Buffer {
	const noise = Buffer.alloc(bytes);
	for (let at = 0; at + 4 <= bytes; at += 4) noise.writeUInt32LE((dice.next() * 2 ** 32) >>> 0, at);
	return noise;
}
const base64 = (bytes: Buffer) => bytes.toString('base64').replace(/.{76}/g, '$&\n');

/** Writes an mbox file of such mail. @returns how many of its messages have a file, and their bytes */
export async function writeRealMbox(
	file: string,
	count: number,
	{ files, seed = 4711 }: RealMailOptions
): Promise<{ withFiles: number; fileBytes: number }> {
	const dice = new Dice(seed);
	const messages = (Object.keys(CORPORA) as (keyof typeof CORPORA)[])
		.flatMap((corpus) => corpusFiles(corpus))
		.map((name) => readFileSync(name, 'latin1').replace(/^From .*\n/, ''))
		.filter((raw) => /^[\w-]+:/.test(raw) && /^from:/im.test(raw));
	const pool = poolOf(messages);
	const draw = (from: readonly string[]) => from[Math.floor(dice.next() * from.length)] ?? '';
	const out = createWriteStream(file, { encoding: 'latin1' });
	let withFiles = 0;
	let fileBytes = 0;

	/* One of the corpora's messages, with other lines in the same places. */
	function recombined(raw: string, at: number): { header: string[]; body: string[] } {
		const lines = raw.split(/\r?\n/);
		const end = lines.findIndex((line) => line === '');
		const boundaries = new Set([...raw.matchAll(BOUNDARY)].map(([, boundary]) => boundary?.trim()));
		// a copy's thread is its own
		const header = lines
			.slice(0, end)
			.map((line) =>
				/^(message-id|references|in-reply-to):|^\s+</i.test(line)
					? line.replace(/<([^>]+)>/g, `<${Math.floor(at / messages.length)}.$1>`)
					: line
			);
		let isBase64 = /^content-transfer-encoding:\s*base64/im.test(header.join('\n'));
		let isHeader = false;
		const body = lines.slice(end).map((line) => {
			if (line.startsWith('--') && boundaries.has(line.slice(2).replace(/--$/, '').trim())) {
				isHeader = true;
				isBase64 = false;
				return line;
			}
			if (isHeader) {
				if (line === '') isHeader = false;
				if (/^content-transfer-encoding:\s*base64/i.test(line)) isBase64 = true;
				return line;
			}
			if (isBase64)
				return line.length > 20 ? noiseOf(dice, ENCODED_LINE).toString('base64').slice(0, line.length) : line;
			if (!isText(line)) return line;
			const quoted = /^[>| ]*/.exec(line)?.[0] ?? '';
			if (/<\/?\w+[^>]*>/.test(line)) return draw(pool.html);
			return quoted + draw(/[^\x20-\x7e\t]|=[0-9A-F]{2}/.test(line) ? pool.other : pool.plain);
		});
		return { header, body };
	}

	async function fileOf(at: number): Promise<{ name: string; type: string; content: Buffer }> {
		const lines = Array.from({ length: dice.between(40, 600) }, () => draw(pool.plain).replace(/[^\x20-\x7e]/g, ' '));
		// many small, few large: about 90 kB in the middle
		const bytes = Math.round(20_000 * 2 ** (dice.next() * 4.5));
		if (at % 10 < 5)
			return { name: `report ${at}.pdf`, type: 'application/pdf', content: pdfOf(lines, noiseOf(dice, bytes)) };
		if (at % 10 < 8)
			return {
				name: `minutes ${at}.docx`,
				type: 'application/vnd.openxmlformats-officedocument.wordprocessingml.document',
				content: await documentOf(lines, noiseOf(dice, bytes))
			};
		const side = Math.round(Math.sqrt(bytes / 2.2));
		return photograph(dice, `deck ${at}.png`, side, side);
	}

	for (let at = 0; at < count; at++) {
		const { header, body } = recombined(messages[at % messages.length] as string, at);
		let text = `${header.join('\n')}\n${body.join('\n')}`;
		if (dice.next() < files) {
			const one = await fileOf(at);
			withFiles++;
			fileBytes += one.content.length;
			const type = /^content-type:[^\n]*(\n[ \t][^\n]*)*/im;
			const inner = type.exec(header.join('\n'))?.[0] ?? 'Content-Type: text/plain';
			const encoding = /^content-transfer-encoding:[^\n]*/im.exec(header.join('\n'))?.[0];
			const outer = header
				.join('\n')
				.replace(type, '')
				.replace(/^content-transfer-encoding:[^\n]*\n?/im, '')
				.replace(/\n{2,}/g, '\n')
				.trim();
			const mark = `=_real_${at}`;
			text = `${outer}\nMIME-Version: 1.0\nContent-Type: multipart/mixed; boundary="${mark}"\n\n--${mark}\n${inner}${encoding ? `\n${encoding}` : ''}\n${body.join('\n')}\n--${mark}\nContent-Type: ${one.type}; name="${one.name}"\nContent-Disposition: attachment; filename="${one.name}"\nContent-Transfer-Encoding: base64\n\n${base64(one.content)}\n--${mark}--\n`;
		}
		const entry = `From bench@place.example Thu Jan  1 00:00:00 2015\n${text.replace(/^(>*From )/gm, '>$1')}\n\n`;
		if (!out.write(entry, 'latin1')) await once(out, 'drain');
	}
	out.end();
	await once(out, 'finish');
	return { withFiles, fileBytes };
}
