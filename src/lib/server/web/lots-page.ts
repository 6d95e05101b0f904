import type { RequestEvent } from '@sveltejs/kit';
import { labelOf } from '../../../core/lots/lots.ts';
import { AGE_PRESETS, cutoffFor } from '../../../core/weigh/advice.ts';
import { answered, attempted } from './answers.ts';
import { jsonAction } from './json-action.ts';
import { loadMessages, readMessagesAddress, seriesNames } from './messages-page.ts';
import { selectedMailboxes } from './selection-address.ts';
import { type LotAddress, lotFields, readSheetAddress, type SheetMailboxes, sheetOf } from './lots-address.ts';

const FIRST = 200;
const LOT_PAGE = 50;

/** The first part of a sheet. */
export async function loadLots(
	{ office, who }: Pick<App.Locals, 'office' | 'who'>,
	address: URLSearchParams,
	mailboxes: SheetMailboxes
) {
	const asked = readSheetAddress(address);
	const descending = asked.descending === '' ? undefined : asked.descending === '1';
	const rows = await attempted(
		office.ask('listLots', { ...sheetOf(asked, mailboxes), sort: asked.sort, descending, limit: FIRST }, who)
	);
	const tags = await answered(office.ask('listTags', undefined, who));
	return {
		asked,
		tags: tags.map(({ name }) => name),
		series: await seriesNames({ office, who }),
		recent: (await answered(office.ask('decidingHabits', undefined, who))).recent,
		rows: 'done' in rows ? rows.done : null,
		refused: 'refused' in rows ? rows.refused : undefined
	};
}

/** The messages of a lot, as a sheet. */
export async function loadLot(
	locals: Pick<App.Locals, 'office' | 'who'>,
	address: URLSearchParams,
	mailboxes: SheetMailboxes
) {
	const asked = readMessagesAddress<LotAddress>(address, lotFields);
	const { by, key, q: query, below } = asked;
	const folder = below || undefined;
	// a lot by tags or files is found with the others of its messages
	const rows = await attempted(
		locals.office.ask('listLots', { ...mailboxes, by, query, folder, within: { by, key }, limit: 1_000 }, locals.who)
	);
	const found = 'done' in rows ? rows.done.lots.find((lot) => lot.key === key) : undefined;
	const lot = found ?? { label: labelOf(by, key), messages: 0, bytes: 0 };
	const gathered = { of: 'lot' as const, by, key, label: lot.label, folder };
	return {
		by,
		lot,
		filters: [folder && `in ${folder} and below`, query && `matching “${query}”`].filter(Boolean).join(', '),
		...(await loadMessages(
			locals,
			asked,
			{
				query,
				mailbox: mailboxes.mailboxId,
				mailboxIds: mailboxes.mailboxIds,
				states: ['live'],
				gathered,
				narrowing: { mailbox: mailboxes.mailboxId }
			},
			{ sort: 'newest', pageSize: LOT_PAGE }
		))
	};
}

/** Ages to select, each with its first day. */
export function agesOn(today: string): { name: string; cutoff: string }[] {
	return AGE_PRESETS.map(({ months, name }) => ({ name, cutoff: cutoffFor(today, months) }));
}

/** Puts a decision on the docket of each mailbox concerned; on a mailbox's page, of that one. */
export const decideOnLots = jsonAction(
	'decideLots',
	(decided) => ({ decided: decided.map(({ mailbox, id, messages }) => ({ mailbox, id, messages })) }),
	({ url, params }: RequestEvent) =>
		sheetOf(
			readSheetAddress(url.searchParams),
			params.mailbox === undefined
				? { mailboxIds: selectedMailboxes(url.searchParams) }
				: { mailboxId: Number(params.mailbox) }
		)
);
