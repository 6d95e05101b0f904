import { type Column, isEmpty, type Phrase, phrasesOf } from '../../../core/search/query.ts';
import { type MessageOrder, MESSAGE_ORDERS } from '../../../core/search/orders.ts';
import { excerpt, markHits, type Stretch } from '../../../core/search/excerpt.ts';
import { readBody } from '../../../core/message/body.ts';
import { divideText } from '../../../core/message/quoted.ts';
import { scanStructure } from '../../../core/message/structure.ts';
import type { Choices, Narrowing } from '../../../core/search/narrowing.ts';
import {
	checkedQuery,
	DamagedContentError,
	fileTexts,
	type MailboxRef,
	readContent,
	requireMailbox,
	type StoredAttachment,
	type Tag,
	tagsOfItems
} from '../mail/index.ts';
import {
	COUNTED_AT_MOST,
	choicesIn,
	findItems,
	type Found,
	foundIdsBehind,
	type Search,
	weighFound
} from './search-store.ts';
import { type Context, count, defineUseCase, foundState, mailboxRef, narrowing, text } from '../context/index.ts';
import { reachOf, withinReach } from '../access/index.ts';
import Joi from 'joi';

/** What is looked for. */
export interface FindInput {
	query: string;
	/** Without it, all. */
	mailbox?: MailboxRef | undefined;
	/** Without it, archived and live mail. */
	states?: ('live' | 'archived' | 'binned')[] | undefined;
	sort?: MessageOrder | undefined;
	limit: number;
	offset?: number | undefined;
	/** The person is still writing: the last word may go on. */
	typing?: boolean | undefined;
	narrowing?: Narrowing | undefined;
}

/** A message found, with what was found in it. */
interface Hit extends Omit<Found, 'files'> {
	/** The attachments that are files, with the number under which each is asked for. */
	files: { index: number; name: string }[];
	tags: Tag[];
	markedSubject: Stretch[];
	markedFrom: Stretch[];
	context: Stretch[];
	/** Whoever asks may have it back. */
	restorable: boolean;
}

/** A page of messages found. */
export interface FindResult {
	total: number;
	/** There are more than `total`: a count over a very frequent word ends there. */
	totalIsMore: boolean;
	/** Of those that are counted. */
	bytes: number;
	hits: Hit[];
}

async function toSearch(context: Context, input: Omit<FindInput, 'limit'>): Promise<Search> {
	const mailbox = input.mailbox === undefined ? undefined : await requireMailbox(context, input.mailbox);
	return {
		reach: await reachOf(context, 'find'),
		narrowing: input.narrowing,
		query: checkedQuery(input.query, input.typing),
		mailboxId: mailbox?.id,
		states: input.states ?? ['live', 'archived']
	};
}

/* Words in the text come from the raw bytes: the index does not keep them (docs/decisions). */
async function textOf({ db }: Context, contentId: number): Promise<{ own: string; quoted: string }> {
	const bytes = await readContent(db, contentId);
	if (!bytes) return { own: '', quoted: '' };
	return divideText((await readBody(bytes, scanStructure(bytes))).text);
}

function hasHit(stretches: readonly Stretch[]): boolean {
	return stretches.some((stretch) => stretch.hit);
}

function bestExcerpt(texts: [Column, string][], phrases: readonly Phrase[]): Stretch[] {
	const excerpts = texts.map(([column, text]) => excerpt(text, phrases, column));
	return excerpts.find(hasHit) ?? excerpts[0] ?? [];
}

async function toHit(
	context: Context,
	found: Found,
	phrases: readonly Phrase[]
): Promise<Omit<Hit, 'restorable' | 'tags'>> {
	const { own, quoted } = await textOf(context, found.contentId).catch((error: unknown) => {
		// only what is damaged is called so
		if (!(error instanceof DamagedContentError)) throw error;
		return { own: '(the stored message is damaged)', quoted: '' };
	});
	const from = found.fromName ? `${found.fromName} <${found.fromAddress}>` : found.fromAddress;
	const files = JSON.parse(found.files) as StoredAttachment[];
	const inside =
		files.length > 0 ? ((await fileTexts(context.db, [found.messageNumber])).get(found.messageNumber) ?? '') : '';
	return {
		...found,
		files: files.flatMap(({ name, inline }, index) => (inline ? [] : [{ index, name }])),
		markedSubject: markHits(found.subject, phrases, 'subject'),
		markedFrom: markHits(from, phrases, 'sender'),
		context: bestExcerpt(
			[['text', own], ['quoted', quoted], ...(files.length > 0 ? [['files', inside] as [Column, string]] : [])],
			phrases
		)
	};
}

/** Finds messages by a query. @throws Refusal */
export async function find(context: Context, input: FindInput): Promise<FindResult> {
	const search = await toSearch(context, input);
	const phrases = phrasesOf(search.query);
	const sort = input.sort ?? (isEmpty(search.query) || phrases.length === 0 ? 'newest' : 'relevance');
	const { messages: counted, bytes } = await weighFound(context.db, search);
	const found = await findItems(context.db, search, sort, input.limit, input.offset ?? 0);
	const hits: Hit[] = [];
	const restorable = new Set(
		await withinReach(
			context,
			found.map(({ id }) => id),
			'restore'
		)
	);
	const tags = await tagsOfItems(
		context.db,
		found.map(({ id }) => id)
	);
	for (const item of found)
		hits.push({
			...(await toHit(context, item, phrases)),
			tags: (tags.get(item.id) ?? []).filter(({ hidden }) => !hidden),
			restorable: restorable.has(item.id)
		});
	return { total: Math.min(counted, COUNTED_AT_MOST), totalIsMore: counted > COUNTED_AT_MOST, bytes, hits };
}

/** What a search can be narrowed by. @throws Refusal */
export async function narrow(context: Context, input: Omit<FindInput, 'limit'>): Promise<Choices> {
	return choicesIn(context.db, await toSearch(context, input));
}

/** The ids of everything that a query finds, some thousands at a time. */
export async function* findAllIds(context: Context, input: Omit<FindInput, 'limit'>): AsyncGenerator<number[]> {
	const search = await toSearch(context, input);
	for (let after = 0; ;) {
		const ids = await foundIdsBehind(context.db, search, after, 1_000);
		if (ids.length === 0) return;
		yield ids;
		after = ids.at(-1) as number;
	}
}

/** What says which messages are looked for, as the input of a use case. */
export const searchFields = () => ({
	query: text.required(),
	mailbox: mailboxRef,
	states: Joi.array().items(foundState),
	typing: Joi.boolean(),
	narrowing
});

/** The use cases of this file. */
export const findUseCases = [
	defineUseCase({
		name: 'find',
		input: () =>
			Joi.object({
				...searchFields(),
				sort: Joi.valid(...MESSAGE_ORDERS),
				limit: count.required(),
				offset: count
			}).required(),
		thread: 'opener',
		right: 'finder',
		run: find
	}),
	defineUseCase({
		name: 'narrow',
		input: () => Joi.object(searchFields()).required(),
		thread: 'heavy',
		right: 'finder',
		run: narrow
	})
] as const;
