import { attachmentContent, attachments } from '../../../core/message/body.ts';
import { scanStructure } from '../../../core/message/structure.ts';
import {
	getItem,
	type ItemDetails,
	otherItems,
	readableContent,
	readApart,
	type ReadBody,
	ReadingEndedError,
	type Tag,
	tagsOfItems
} from '../mail/index.ts';
import { type DigestOriginal, judgeSender, originalsOf } from '../lists/index.ts';
import { holdsOfItem } from '../standing/index.ts';
import { type Context, count, defineUseCase, id } from '../context/index.ts';
import { Refusal } from '../refusal.ts';
import { requireReach, withinReach } from '../access/index.ts';
import { type Standing, standingOf } from '../retention/index.ts';
import Joi from 'joi';

/** A message for a person to read. */
export interface ReadableMessage extends ItemDetails, ReadBody {
	tags: Tag[];
	/** The mark that trusts or blocks its sender, in words. */
	sender: string;
	/** For a digest, the messages it was made of. */
	originals: DigestOriginal[];
	/** Names of the holds on it. */
	holds: string[];
	/** Its standing as a record, and its next disposition. */
	standing: Standing;
}

async function open(context: Context, id: number): Promise<{ item: ItemDetails; bytes: Buffer }> {
	await requireReach(context, id, 'find');
	const item = await getItem(context.db, id);
	if (!item) throw new Refusal('not-found', `There is no message ${id}.`);
	const bytes = await readableContent(context.db, item.contentId);
	if (bytes) return { item, bytes };
	throw new Refusal(
		'damaged',
		`The stored bytes of message ${id} are damaged; restore them from a backup. Nothing was changed.`
	);
}

/* A message that cannot be read here is still there, and can be downloaded. */
function notShown(error: unknown): ReadBody {
	if (!(error instanceof ReadingEndedError)) throw error;
	return {
		text: `This message is not shown: ${error.message}. Its bytes are whole: download it.`,
		moreText: undefined,
		hasHtml: false,
		attachments: []
	};
}

/** Opens a message; its read state stays as it is (invariant 3). @throws Refusal */
export async function readMessage(context: Context, input: { id: number }): Promise<ReadableMessage> {
	const { item, bytes } = await open(context, input.id);
	const body = await readApart('body', bytes).catch(notShown);
	const tags = (await tagsOfItems(context.db, [item.id])).get(item.id) ?? [];
	// who may not see the other places learns of none (invariant 20)
	const others = item.elsewhere === 0 ? [] : await otherItems(context.db, item.id);
	return {
		...item,
		elsewhere: (await withinReach(context, others, 'find')).length,
		...body,
		tags,
		sender: (await judgeSender(context, { from: item.fromAddress, list: item.list })).sentence,
		originals: await originalsOf(context.db, item.messageId),
		holds: await holdsOfItem(context.db, item.id),
		standing: await standingOf(context, item.id)
	};
}

/** The HTML of a message, sanitised for a sandboxed frame. @throws Refusal */
export async function readHtml(context: Context, input: { id: number }): Promise<string> {
	const { bytes } = await open(context, input.id);
	const html = await readApart('html', bytes);
	if (html === undefined) throw new Refusal('not-found', `Message ${input.id} has no HTML.`);
	return html;
}

/** One file of a message. @throws Refusal */
export async function readAttachment(
	context: Context,
	input: { id: number; index: number }
): Promise<{ name: string; content: Uint8Array }> {
	const { bytes } = await open(context, input.id);
	const root = scanStructure(bytes);
	const content = attachmentContent(bytes, root, input.index);
	const info = attachments(root)[input.index];
	if (!content || !info) throw new Refusal('not-found', `Message ${input.id} has no file ${input.index + 1}.`);
	return { name: info.name, content };
}

/** The bytes of a message as received. @throws Refusal */
export async function readRaw(context: Context, input: { id: number }): Promise<{ name: string; content: Uint8Array }> {
	const { item, bytes } = await open(context, input.id);
	return { name: `${item.receivedOn ?? 'undated'} message ${item.id}.eml`, content: bytes };
}

/** The use cases of this file. */
export const readMessageUseCases = [
	defineUseCase({
		name: 'readMessage',
		input: () => Joi.object({ id: id.required() }).required(),
		thread: 'opener',
		right: 'finder',
		look: 'read',
		run: readMessage
	}),
	defineUseCase({
		name: 'readHtml',
		input: () => Joi.object({ id: id.required() }).required(),
		thread: 'opener',
		right: 'finder',
		look: 'read',
		run: readHtml
	}),
	defineUseCase({
		name: 'readAttachment',
		input: () => Joi.object({ id: id.required(), index: count.required() }).required(),
		thread: 'opener',
		right: 'finder',
		look: 'opened a file of',
		run: readAttachment
	}),
	defineUseCase({
		name: 'readRaw',
		input: () => Joi.object({ id: id.required() }).required(),
		thread: 'opener',
		right: 'finder',
		look: 'kept a copy of',
		run: readRaw
	})
] as const;
