import Joi from 'joi';
import { type MessageOrder, MESSAGE_ORDERS } from '../../../core/search/orders.ts';
import type { SeriesName } from '../../../core/retention/schedule.ts';
import type { Narrowing } from '../../../core/search/narrowing.ts';
import type { ItemState } from '../../../core/docket/decision.ts';
import { answered, attempted } from './answers.ts';
import { jsonAction } from './json-action.ts';

type FoundState = Exclude<ItemState, 'destroyed'>;

/** The messages of a sheet, as a search. */
export interface MessagesSearch {
	query: string;
	mailbox?: number | undefined;
	states: FoundState[];
	narrowing?: Narrowing | undefined;
	typing?: boolean | undefined;
}

/** The order and the page in a sheet's address. */
export const sheetFields = {
	sort: Joi.string()
		.valid(...MESSAGE_ORDERS, '')
		.default(''),
	page: Joi.number().integer().min(1).max(10_000).default(1)
};

/** The series to select from. */
export async function seriesNames({ office, who }: Pick<App.Locals, 'office' | 'who'>): Promise<SeriesName[]> {
	return (await answered(office.ask('listSchedule', {}, who))).map(({ code, title }) => ({ code, title }));
}

/**
 * One page of a sheet of messages, with the names that decisions can use. @returns `refused` if the search is invalid
 */
export async function loadMessages(
	{ office, who }: Pick<App.Locals, 'office' | 'who'>,
	search: MessagesSearch,
	{ sort, page, pageSize }: { sort: MessageOrder | ''; page: number; pageSize: number }
) {
	const found = await attempted(
		office.ask('find', { ...search, sort: sort || undefined, limit: pageSize, offset: (page - 1) * pageSize }, who)
	);
	if ('refused' in found) return { refused: found.refused };
	const [tags, recent, series, folders] = await Promise.all([
		answered(office.ask('listTags', { mailboxId: search.mailbox }, who)),
		answered(office.ask('recentPlaces', undefined, who)),
		seriesNames({ office, who }),
		search.mailbox === undefined
			? []
			: answered(office.ask('mailboxFolders', { mailboxId: search.mailbox, tree: 'mailbox' }, who)).then((all) =>
					all.folders.map(({ path }) => path)
				)
	]);
	return {
		sheet: {
			...found.done,
			search,
			sort,
			page,
			pageSize,
			folders,
			tags: tags.filter(({ hidden }) => !hidden).map(({ name }) => name),
			recent,
			series
		}
	};
}

/** The content of a sheet of messages. */
export type MessagesPage = NonNullable<Awaited<ReturnType<typeof loadMessages>>['sheet']>;

/** Decides on the messages of a sheet, at once or on the docket. */
export const decideOnMessages = jsonAction('decideMessages', (decided) => ({ decided }));
