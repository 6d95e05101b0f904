import { error } from '@sveltejs/kit';
import { answered } from './answers.ts';
import { readPart, readSheetAddress, type SheetMailboxes, sheetOf } from './lots-address.ts';

/** A part of a sheet. */
export async function lotsPart(
	{ office, who }: App.Locals,
	address: URLSearchParams,
	mailboxes: SheetMailboxes
): Promise<unknown> {
	const asked = readSheetAddress(address);
	const sheet = sheetOf(asked, mailboxes);
	let part;
	try {
		part = readPart(address);
	} catch {
		error(400, 'This part of the sheet cannot be understood.');
	}
	const { offset, limit } = part;
	const descending = asked.descending === '' ? undefined : asked.descending === '1';
	return answered(office.ask('listLots', { ...sheet, sort: asked.sort, descending, offset, limit }, who));
}
