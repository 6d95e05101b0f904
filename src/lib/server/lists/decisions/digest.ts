import { today } from '../../context/index.ts';
import type { ListWork } from '../../docket/index.ts';
import { addDigestLists, removeDigestListsOfLines } from '../digests-store.ts';
import { listIds, listNames } from './lists-of-line.ts';

/** Adds lists to the digest of the mailbox. */
export const digest: ListWork = {
	about: 'lists',
	names: listNames,
	begin: (context, { docket, line }) =>
		addDigestLists(context.db, docket.mailboxId, listIds(line), today(context), line.id),
	async undo({ db }, line) {
		await removeDigestListsOfLines(db, [line.id]);
		return listIds(line).length;
	}
};
