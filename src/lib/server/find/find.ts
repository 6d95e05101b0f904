import { asksFor, type Column, isEmpty, type Phrase, phrasesOf } from '../../../core/search/query.ts';
import { type MessageOrder, MESSAGE_ORDERS } from '../../../core/search/orders.ts';
import { excerpt, markHits, type Stretch } from '../../../core/search/excerpt.ts';
import type { Choices, Gathered, Narrowing } from '../../../core/search/narrowing.ts';
import {
	checkedQuery,
	DamagedContentError,
	fileTexts,
	type MailboxRef,
	readApart,
	readContent,
	ReadingEndedError,
	requireMailbox,
	type StoredAttachment,
	type Tag,
	tagsOfItems
} from '../mail/index.ts';
import {
	COUNTED_AT_MOST,
	choicesIn,
	contentsOf,
	countShown,
	findItems,
	type Folded,
	type Found,
	foundIdsBehind,
	foundInThreads,
	type Search,
	weighFound
} from './search-store.ts';
import { gatheredWhere } from './gathered.ts';
import {
	type Context,
	count,
	defineUseCase,
	foundState,
	gathered,
	id,
	mailboxIds,
	mailboxRef,
	narrowing,
	text,
	today
} from '../context/index.ts';
import { reachOf, withinReach } from '../access/index.ts';
import { Refusal } from '../refusal.ts';
import Joi from 'joi';

/** A search. */
export interface FindInput {
	query: string;
	/** Undefined: several mailboxes. */
	mailbox?: MailboxRef | undefined;
	/** Which of them; undefined: all. */
	mailboxIds?: number[] | undefined;
	/** Undefined: archived and live mail. */
	states?: ('live' | 'archived' | 'binned')[] | undefined;
	sort?: MessageOrder | undefined;
	limit: number;
	offset?: number | undefined;
	/** The person is still typing: the last word is a prefix. */
	typing?: boolean | undefined;
	narrowing?: Narrowing | undefined;
	/** Only what another page gathers; only for administrators. */
	gathered?: Gathered | undefined;
	/** A thread stands as its newest message found. */
	isFolded?: boolean | undefined;
	/** Set if the text around the words found is asked for later ({@link readExcerpts}): it is read from the messages. */
	isBrief?: boolean | undefined;
}

/** The part of a search that selects messages. */
export type FindSelection = Omit<FindInput, 'limit' | 'offset' | 'sort' | 'isFolded' | 'isBrief'>;

/** A found message, with its matches. */
interface Hit extends Omit<Found, 'files'> {
	/** The attachments that are files, with the number by which each is requested. */
	files: { index: number; name: string }[];
	tags: Tag[];
	markedSubject: Stretch[];
	markedFrom: Stretch[];
	/** Text around the words found; empty where it is asked for later. */
	context: Stretch[];
	/** The person may restore it. */
	restorable: boolean;
	/** The other messages of its thread, if it stands for them. */
	folded: Folded[];
}

/** A page of found messages. */
export interface FindResult {
	total: number;
	/** The rows that stand for them: threads, or the messages themselves. */
	rows: number;
	/** There are more than `total`: the count of a very frequent word is limited. */
	totalIsMore: boolean;
	/** Of the counted ones. */
	bytes: number;
	hits: Hit[];
}

async function toSearch(context: Context, input: FindSelection & Pick<FindInput, 'isFolded'>): Promise<Search> {
	const mailbox = input.mailbox === undefined ? undefined : await requireMailbox(context, input.mailbox);
	// what an owner reviews is limited by their reach
	if (input.gathered && input.gathered.of !== 'review' && context.actor.role !== 'administrator')
		throw new Refusal('forbidden', 'Only an administrator opens that. Nothing was looked up.');
	const query = checkedQuery(input.query, { typing: input.typing, today: today(context) });
	return {
		reach: await reachOf(context, 'find'),
		gathered:
			input.gathered && (await gatheredWhere(context, input.gathered, mailbox ? [mailbox.id] : input.mailboxIds)),
		isFolded: input.isFolded,
		narrowing: input.narrowing,
		query,
		mailboxId: mailbox?.id,
		mailboxIds: input.mailboxIds,
		// what lies in the bin is found where somebody asks for it
		states: input.states ?? (asksFor(query, 'state') ? ['live', 'archived', 'binned'] : ['live', 'archived'])
	};
}

/* A page of results does not wait longer for one of them. */
const EXCERPT_MS = 3_000;

/* Text for excerpts is read from the raw bytes: the index does not keep it (docs/decisions). */
async function textOf({ db }: Context, contentId: number): Promise<{ own: string; quoted: string }> {
	const bytes = await readContent(db, contentId);
	if (!bytes) return { own: '', quoted: '' };
	return readApart('texts', bytes, EXCERPT_MS);
}

function hasHit(stretches: readonly Stretch[]): boolean {
	return stretches.some((stretch) => stretch.hit);
}

function bestExcerpt(texts: [Column, string][], phrases: readonly Phrase[]): Stretch[] {
	const excerpts = texts.map(([column, text]) => excerpt(text, phrases, column));
	return excerpts.find(hasHit) ?? excerpts[0] ?? [];
}

async function excerptOf(
	context: Context,
	found: Pick<Found, 'contentId' | 'files' | 'messageNumber'>,
	phrases: readonly Phrase[]
): Promise<Stretch[]> {
	const { own, quoted } = await textOf(context, found.contentId).catch((error: unknown) => {
		if (error instanceof ReadingEndedError) return { own: `(not shown: ${error.message})`, quoted: '' };
		// only a damaged message is shown as damaged
		if (!(error instanceof DamagedContentError)) throw error;
		return { own: '(the stored message is damaged)', quoted: '' };
	});
	const hasFiles = found.files !== '[]';
	const inside = hasFiles ? ((await fileTexts(context.db, [found.messageNumber])).get(found.messageNumber) ?? '') : '';
	return bestExcerpt(
		[['text', own], ['quoted', quoted], ...(hasFiles ? [['files', inside] as [Column, string]] : [])],
		phrases
	);
}

function toHit(found: Found, phrases: readonly Phrase[]): Omit<Hit, 'restorable' | 'tags' | 'folded' | 'context'> {
	const from = found.fromName ? `${found.fromName} <${found.fromAddress}>` : found.fromAddress;
	const files = JSON.parse(found.files) as StoredAttachment[];
	return {
		...found,
		files: files.flatMap(({ name, inline }, index) => (inline ? [] : [{ index, name }])),
		markedSubject: markHits(found.subject, phrases, 'subject'),
		markedFrom: markHits(from, phrases, 'sender')
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
	const folded = search.isFolded ? await foundInThreads(context.db, search, found) : [];
	for (const item of found)
		hits.push({
			...toHit(item, phrases),
			context: input.isBrief ? [] : await excerptOf(context, item, phrases),
			tags: (tags.get(item.id) ?? []).filter(({ hidden }) => !hidden),
			restorable: restorable.has(item.id),
			folded: folded.filter(({ threadId }) => threadId === item.threadId)
		});
	const total = Math.min(counted, COUNTED_AT_MOST);
	const rows = search.isFolded ? Math.min(await countShown(context.db, search), COUNTED_AT_MOST) : total;
	return { total, rows, totalIsMore: counted > COUNTED_AT_MOST, bytes, hits };
}

/**
 * The text around the words of a query in some messages, by their numbers; without words, their first words.
 *
 * @throws Refusal
 */
async function readExcerpts(
	context: Context,
	input: { ids: number[]; query: string; typing?: boolean | undefined }
): Promise<Record<number, Stretch[]>> {
	const phrases = phrasesOf(checkedQuery(input.query, { typing: input.typing, today: today(context) }));
	const excerpts: Record<number, Stretch[]> = {};
	for (const found of await contentsOf(context.db, await withinReach(context, input.ids, 'find')))
		excerpts[found.id] = await excerptOf(context, found, phrases);
	return excerpts;
}

/** The filters for a search. @throws Refusal */
export async function narrow(context: Context, input: FindSelection): Promise<Choices> {
	return choicesIn(context.db, await toSearch(context, input));
}

/** The ids of everything a query finds, some thousands at a time. */
export async function* findAllIds(context: Context, input: FindSelection): AsyncGenerator<number[]> {
	const search = await toSearch(context, input);
	for (let after = 0; ;) {
		const ids = await foundIdsBehind(context.db, search, after, 1_000);
		if (ids.length === 0) return;
		yield ids;
		after = ids.at(-1) as number;
	}
}

/** How many messages a search finds; above {@link COUNTED_AT_MOST}, one more than that. */
export async function countFound(context: Context, input: FindSelection): Promise<number> {
	return (await weighFound(context.db, await toSearch(context, input))).messages;
}

/** The fields of an input that select messages. */
export const searchFields = () => ({
	query: text.required(),
	mailbox: mailboxRef,
	mailboxIds,
	states: Joi.array().items(foundState),
	typing: Joi.boolean(),
	narrowing,
	gathered
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
				offset: count,
				isFolded: Joi.boolean(),
				isBrief: Joi.boolean()
			}).required(),
		thread: 'opener',
		right: 'finder',
		run: find
	}),
	defineUseCase({
		name: 'readExcerpts',
		input: () =>
			Joi.object({
				ids: Joi.array().items(id).max(1_000).required(),
				query: text.required(),
				typing: Joi.boolean()
			}).required(),
		thread: 'opener',
		right: 'finder',
		look: 'found words in',
		run: readExcerpts
	}),
	defineUseCase({
		name: 'narrow',
		input: () => Joi.object(searchFields()).required(),
		thread: 'heavy',
		right: 'finder',
		run: narrow
	})
] as const;
