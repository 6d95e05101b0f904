import { Worker } from 'node:worker_threads';
import { alternativeTexts } from '../../../../core/likeness/contains.ts';
import {
	attachmentContent,
	type AttachmentInfo,
	attachments,
	type Body,
	readBody,
	textOfHtml
} from '../../../../core/message/body.ts';
import { divideText } from '../../../../core/message/quoted.ts';
import { scanStructure } from '../../../../core/message/structure.ts';
import { safeHtml } from '../../find/safe-html.ts';
import { textOfFiles } from '../../intake/text-of-files.ts';
import { lowerPriority } from '../../priority.ts';
import { readMessageWays } from '../../../../core/lists/message-ways.ts';
import { parse } from './parse-message.ts';

/*
 * Reads one message at a time, in a process that is ended by what it takes (mail/reading/reading-pool): what a document unpacks to
 * lies in buffers, which no limit of a thread counts. The watching thread looks while the reading one is busy.
 */

const MOST_BYTES = 700_000_000;
const LOOKS_EVERY_MS = 20;

const watching = new Worker(
	`setInterval(() => { if (process.memoryUsage.rss() > ${MOST_BYTES}) process.kill(process.pid, 'SIGKILL'); }, ${LOOKS_EVERY_MS});`,
	{ eval: true }
);
watching.unref();
lowerPriority(Number(process.env.KOVREL_READING_NICE ?? 0));

/** A message as a person reads it. */
export interface ReadBody {
	text: string;
	/** The text of its HTML, if that says more than the plain text; else undefined. */
	moreText: string | undefined;
	hasHtml: boolean;
	attachments: AttachmentInfo[];
}

function moreOf({ text, html }: Body): string | undefined {
	return html === undefined ? undefined : alternativeTexts(text, textOfHtml(html)).find((other) => other !== text);
}

/** What a person reads of a message, without its HTML. */
export function body(bytes: Uint8Array): ReadBody {
	const root = scanStructure(bytes);
	const read = readBody(bytes, root);
	return {
		text: read.text,
		moreText: moreOf(read),
		hasHtml: read.html !== undefined,
		attachments: attachments(root)
	};
}

/** The HTML of a message, sanitised for a sandboxed frame, with its own pictures; undefined: it has none. */
export async function html(bytes: Uint8Array): Promise<string | undefined> {
	const root = scanStructure(bytes);
	const { html: written } = readBody(bytes, root);
	if (written === undefined) return undefined;
	const pictures = attachments(root).filter(({ contentId, type }) => contentId && type.startsWith('image/'));
	return safeHtml(written, async (contentId) => {
		const picture = pictures.find((candidate) => candidate.contentId === contentId);
		const content = picture && attachmentContent(bytes, root, picture.index);
		return content && { type: picture.type, content };
	});
}

/** The text of a message, its own and what it quotes, for excerpts. */
export function texts(bytes: Uint8Array): { own: string; quoted: string } {
	return divideText(readBody(bytes, scanStructure(bytes)).text);
}

/** The words inside the files of a message. */
export const files = textOfFiles;

/** All that is stored of a message. */
export { parse };

/** The ways to unsubscribe. */
export const ways = readMessageWays;
