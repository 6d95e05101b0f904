import { showDate } from '../../../core/calendar.ts';
import { classOf, type RecordClass } from '../../../core/retention/classes.ts';
import { sourceWords, termsWords } from '../../../core/retention/sentences.ts';
import { itemsWhere } from '../stores/items.ts';
import { governed, itemRetention, listRetentions } from '../stores/retention.ts';
import type { Context } from './context.ts';

/** The standing of a message as a record, and what happens to it next. */
export interface Standing {
	class: RecordClass;
	/** Code of its series; null where it is under none. */
	series: string | null;
	sentence: string;
}

const DONE = { archive: 'archived', destroy: 'destroyed', review: 'looked at by a person' };

/** What a message is retained under, and why, in a sentence. */
export async function standingOf({ db }: Context, id: number): Promise<Standing> {
	const { items } = await itemsWhere(db, { sql: 'item.id = ?', bindings: [id] }, 1, 0);
	const [item] = items;
	const retentions = await listRetentions(db);
	const retention = item?.retentionId == null ? undefined : retentions.get(item.retentionId);
	const standing = { class: classOf(item?.class ?? null), series: item?.series ?? null };
	if (!item || !retention) return { ...standing, sentence: 'No period is set: it stays.' };
	const own = await itemRetention(db, id);
	const folder = (await governed(db, item.mailboxId)).get(own.folderId);
	const source =
		own.retentionId === item.retentionId
			? 'set on this message'
			: folder?.source && folder.retentionId === item.retentionId
				? folder.source.kind === 'own'
					? 'set on its folder'
					: sourceWords(folder.source)
				: `the policy for ${standing.class} mail`;
	const what = termsWords(retention.terms, folder?.closedOn);
	const next =
		item.dueOn && item.dueAction
			? ` It is due to be ${DONE[item.dueAction]} on ${showDate(item.dueOn)}.`
			: item.dateInDoubt
				? ' Its date is in doubt, so it is never due by itself.'
				: '';
	return { ...standing, sentence: `It is ${what} (${source}).${next}` };
}
