import type { RequestEvent } from '@sveltejs/kit';
import { AGE_PRESETS, cutoffFor } from '../../../core/weigh/advice.ts';
import { answered, attempted } from './answers.ts';
import { jsonAction } from './json-action.ts';
import { seriesNames } from './messages-page.ts';
import { readSheetAddress, sheetOf } from './lots-address.ts';

const FIRST = 200;

/** The first part of a sheet, for one mailbox or all. */
export async function loadLots(
	{ office, who }: Pick<App.Locals, 'office' | 'who'>,
	address: URLSearchParams,
	mailboxId: number | undefined
) {
	const asked = readSheetAddress(address);
	const descending = asked.descending === '' ? undefined : asked.descending === '1';
	const rows = await attempted(
		office.ask('listLots', { ...sheetOf(asked, mailboxId), sort: asked.sort, descending, limit: FIRST }, who)
	);
	const tags = await answered(office.ask('listTags', { mailboxId }, who));
	return {
		asked,
		tags: tags.map(({ name }) => name),
		series: await seriesNames({ office, who }),
		rows: 'done' in rows ? rows.done : null,
		refused: 'refused' in rows ? rows.refused : undefined
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
		sheetOf(readSheetAddress(url.searchParams), params.mailbox === undefined ? undefined : Number(params.mailbox))
);
