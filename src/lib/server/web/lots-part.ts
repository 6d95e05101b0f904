import { error } from '@sveltejs/kit';
import { answered } from './answers.ts';
import { readPart, readSheetAddress, sheetOf } from './lots-address.ts';

/** A part of a sheet; for one of its lots, the messages, or its lots of another grouping. */
export async function lotsPart(
	{ office, who }: App.Locals,
	address: URLSearchParams,
	mailboxId: number | undefined
): Promise<unknown> {
	const asked = readSheetAddress(address);
	const sheet = sheetOf(asked, mailboxId);
	let part;
	try {
		part = readPart(address);
	} catch {
		error(400, 'This part of the sheet cannot be understood.');
	}
	const { offset, limit, key, inside } = part;
	if (key !== undefined && inside)
		return answered(
			office.ask('listLots', { ...sheet, by: inside, within: { by: asked.by, key }, offset, limit }, who)
		);
	if (key !== undefined) return answered(office.ask('lotItems', { ...sheet, key, offset, limit }, who));
	const descending = asked.descending === '' ? undefined : asked.descending === '1';
	return answered(office.ask('listLots', { ...sheet, sort: asked.sort, descending, offset, limit }, who));
}
