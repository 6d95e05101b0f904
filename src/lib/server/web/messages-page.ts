import Joi from 'joi';
import { type MessageOrder, MESSAGE_ORDERS } from '../../../core/search/orders.ts';
import type { SeriesName } from '../../../core/retention/schedule.ts';
import type { Choices, Gathered, Narrowing } from '../../../core/search/narrowing.ts';
import type { Decider, ItemState } from '../../../core/docket/decision.ts';
import type { FindResult } from '../find/index.ts';
import { answered, attempted } from './answers.ts';
import { jsonAction } from './json-action.ts';
import { narrowingFields, narrowingOf } from './narrowing-address.ts';

type FoundState = Exclude<ItemState, 'destroyed'>;
type Asking = Pick<App.Locals, 'office' | 'who'>;

/** The messages of a sheet, as a search. */
export interface MessagesSearch {
	query: string;
	mailbox?: number | undefined;
	/** Without one: a selection of mailboxes; undefined: all. */
	mailboxIds?: number[] | undefined;
	states: FoundState[];
	/** Filters that belong to the page, beside those in its address. */
	narrowing?: Narrowing | undefined;
	gathered?: Gathered | undefined;
	typing?: boolean | undefined;
}

/** The order, the page, the filters and the folding in a sheet's address. */
export interface SheetAddress extends Narrowing {
	sort: MessageOrder | '';
	page: number;
	/** Whether a thread stands as one row. */
	threads: boolean;
}

/** The fields of that address. */
export const sheetFields = {
	sort: Joi.string()
		.valid(...MESSAGE_ORDERS, '')
		.default(''),
	page: Joi.number().integer().min(1).max(10_000).default(1),
	threads: Joi.boolean().truthy('1').falsy('').default(false),
	...narrowingFields
};

/**
 * Reads the address of a page with a sheet; parts that are invalid are ignored.
 *
 * @param fields the page's own parts
 */
export function readMessagesAddress<T extends object = object>(
	address: URLSearchParams,
	fields: Record<keyof T, Joi.Schema> = {} as Record<keyof T, Joi.Schema>
): SheetAddress & T {
	const all: Record<string, Joi.Schema> = { ...sheetFields, ...fields };
	const given = Object.fromEntries(address);
	const sound = Object.entries(all).flatMap(([name, schema]) =>
		name in given && !schema.validate(given[name]).error ? [[name, given[name]]] : []
	);
	return Joi.attempt(Object.fromEntries(sound), Joi.object(all)) as SheetAddress & T;
}

/** The series to select from. */
export async function seriesNames({ office, who }: Asking): Promise<SeriesName[]> {
	return answered(office.ask('listSeriesNames', undefined, who));
}

type Excerpts = Record<number, FindResult['hits'][number]['context']>;

/** What a search finds, with the filters that narrow it. */
async function findPage(
	{ office, who }: Asking,
	asked: SheetAddress,
	search: MessagesSearch,
	pageSize: number,
	sort: MessageOrder | ''
) {
	const whole = { ...search, narrowing: { ...narrowingOf(asked), ...search.narrowing } };
	// filters are counted by another thread, and shown when they are there
	const choices: Promise<Choices | null> = attempted(office.ask('narrow', whole, who)).then(
		(narrowed) => ('done' in narrowed ? narrowed.done : null),
		() => null
	);
	const order = asked.sort || sort;
	const found = await attempted(
		office.ask(
			'find',
			{
				...whole,
				sort: order || undefined,
				isFolded: asked.threads,
				isBrief: true,
				limit: pageSize,
				offset: (asked.page - 1) * pageSize
			},
			who
		)
	);
	if ('refused' in found) return { refused: found.refused, found: undefined };
	const ids = found.done.hits.map(({ id }) => id);
	const { query, typing } = search;
	const excerpts: Promise<Excerpts> = attempted(office.ask('readExcerpts', { ids, query, typing }, who)).then(
		(read) => ('done' in read ? read.done : {}),
		() => ({})
	);
	return {
		refused: undefined,
		found: {
			...found.done,
			excerpts,
			search: whole,
			/** Filters that belong to the page. */
			fixed: Object.entries(search.narrowing ?? {}).flatMap(([name, value]) => (value === undefined ? [] : [name])),
			sort: order,
			isFolded: asked.threads,
			page: asked.page,
			pageSize,
			choices
		}
	};
}

/** One page of what a colleague finds. @returns `refused` if the search is invalid */
export async function loadFound(
	locals: Asking,
	asked: SheetAddress,
	search: MessagesSearch,
	{ pageSize, sort = '' }: { pageSize: number; sort?: MessageOrder | '' }
) {
	const page = await findPage(locals, asked, search, pageSize, sort);
	return { refused: page.refused, sheet: page.found && { ...page.found, deciding: undefined } };
}

/**
 * One page of a sheet of messages, with what an administrator decides with. @returns `refused` if the search is invalid
 */
export async function loadMessages(
	locals: Asking,
	asked: SheetAddress,
	search: MessagesSearch,
	{ pageSize, sort = '' }: { pageSize: number; sort?: MessageOrder | '' }
) {
	const { office, who } = locals;
	const page = await findPage(locals, asked, search, pageSize, sort);
	if (!page.found) return { refused: page.refused, sheet: undefined };
	const foldersOf = async (tree: 'mailbox' | 'archive') =>
		search.mailbox === undefined
			? []
			: (await answered(office.ask('mailboxFolders', { mailboxId: search.mailbox, tree }, who))).folders.map(
					({ path }) => path
				);
	const [tags, habits, series, folders, archiveFolders] = await Promise.all([
		answered(office.ask('listTags', undefined, who)),
		answered(office.ask('decidingHabits', undefined, who)),
		seriesNames(locals),
		foldersOf('mailbox'),
		foldersOf('archive')
	]);
	return {
		refused: undefined,
		sheet: {
			...page.found,
			deciding: {
				decider: 'administrator' as Decider,
				folders,
				archiveFolders,
				tags: tags.filter(({ hidden }) => !hidden).map(({ name }) => name),
				series,
				...habits
			}
		}
	};
}

/** One page of an owner's sheet of their own mail, with what they decide with. */
export async function loadOwnMessages(
	locals: Asking,
	asked: SheetAddress,
	search: MessagesSearch & { mailbox: number },
	{ pageSize, sort = '' }: { pageSize: number; sort?: MessageOrder | '' }
) {
	const { office, who } = locals;
	const { dockets, ...tidying } = await answered(office.ask('ownTidying', { mailboxId: search.mailbox }, who));
	const page = await findPage(locals, asked, search, pageSize, sort);
	if (!page.found) return { refused: page.refused, sheet: undefined, dockets };
	const { folders, archiveFolders, tags, recent, atOnce } = tidying;
	const deciding = {
		decider: 'owner' as Decider,
		folders,
		archiveFolders,
		tags,
		series: undefined,
		holds: undefined,
		recent,
		atOnce
	};
	return { refused: undefined, sheet: { ...page.found, deciding }, dockets };
}

/** The content of a sheet of messages. */
export type MessagesPage = NonNullable<
	Awaited<ReturnType<typeof loadMessages | typeof loadFound | typeof loadOwnMessages>>['sheet']
>;

/** Decides on the messages of one's own mailbox. */
export const decideOnOwnMessages = jsonAction('decideOwn', (decided) => ({ decided }));

/** Decides on the messages of a sheet, at once or on the docket. */
export const decideOnMessages = jsonAction('decideMessages', (decided) => ({ decided }));
