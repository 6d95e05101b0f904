// How fast the words inside PDF files are read, beside Debian's pdftotext (poppler-utils) on the same files.
import { spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { MboxSplitter } from '../src/core/formats/mbox.ts';
import { attachmentContent, attachments } from '../src/core/message/body.ts';
import { scanStructure } from '../src/core/message/structure.ts';
import { showBytes, showCount } from '../src/core/weigh/units.ts';
import { textOfFiles } from '../src/lib/server/intake/text-of-files.ts';
import type { Bench } from './clear.ts';
import { each, ratio, table } from './measure.ts';
import { writeRealMbox } from './real-mail.ts';

const ROUNDS = 3;

async function ofPdfs(bench: Bench): Promise<string> {
	const title = '## Words inside PDF files';
	if (spawnSync('pdftotext', ['-v']).error)
		return `${title}\n\nNot measured: Debian's package poppler-utils is not installed.`;
	const mbox = path.join(bench.root, 'files.mbox');
	const kept = path.join(bench.root, 'pdfs');
	mkdirSync(kept);
	await writeRealMbox(mbox, bench.full ? 1_000 : 400, { files: 1 });
	const messages = new MboxSplitter().push(readFileSync(mbox)).map(({ bytes }) => Uint8Array.from(bytes));
	rmSync(mbox);
	const withPdf: Uint8Array[] = [];
	const files: string[] = [];
	let bytes = 0;
	for (const message of messages) {
		const root = scanStructure(message);
		const pdf = attachments(root).find(({ type, name }) => type === 'application/pdf' || name.endsWith('.pdf'));
		const content = pdf && attachmentContent(message, root, pdf.index);
		if (!content) continue;
		withPdf.push(message);
		bytes += content.length;
		files.push(path.join(kept, `${files.length}.pdf`));
		writeFileSync(files.at(-1) as string, content);
	}
	bench.say(`words inside ${showCount(files.length)} PDF files`);
	const garbage = Buffer.from(
		`From: a@b.example\nMIME-Version: 1.0\nContent-Type: application/pdf; name=scan.pdf\nContent-Disposition: attachment\nContent-Transfer-Encoding: base64\n\n${Buffer.alloc(1_000_000, 'no PDF ').toString('base64')}\n`
	);
	const taken: number[][] = [];
	for (let round = 0; round < ROUNDS; round++)
		taken.push(
			await each([
				() => files.forEach((file) => spawnSync('pdftotext', [file, '-'])),
				async () => {
					for (const message of withPdf) await textOfFiles(message);
				},
				() => textOfFiles(garbage)
			])
		);
	rmSync(kept, { recursive: true });
	const [theirs = 0, ours = 0, refused = 0] = [0, 1, 2].map((at) =>
		Math.min(...taken.map((round) => round[at] as number))
	);
	const rate = (milliseconds: number) => `${((1000 * files.length) / milliseconds).toFixed(0)} a second`;
	return [
		title,
		`${showCount(files.length)} files, ${showBytes(bytes)}, of [mail like real mail](#import-of-mail-like-real-mail); in turn, the best of ${ROUNDS}. \`pdftotext\` begins a process for each file, as it would have to; Kovrel finds and decodes the file in its message first, one after the other in one process.`,
		table(
			['', 'files', 'ratio'],
			[
				['pdftotext', rate(theirs), '1'],
				['Kovrel, one process', rate(ours), `**${ratio(theirs, ours)}**`]
			]
		),
		`A megabyte that is only called a PDF is refused in ${refused.toFixed(1)} ms.`
	].join('\n\n');
}

/** The part of it. */
export const wordsOfFilesParts: Record<string, (bench: Bench) => Promise<string>> = { 'words-of-files': ofPdfs };
