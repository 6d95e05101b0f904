import { type ClassWord, UNCLASSED } from '../../../core/retention/classes.ts';
import { itemSentence, sourceWords } from '../../../core/retention/sentences.ts';
import { archivingOf } from '../docket/index.ts';
import { getMailbox, itemsWhere } from '../mail/index.ts';
import { governed, itemRetention, listClasses, listRetentions } from '../standing/index.ts';
import type { Context } from '../context/index.ts';
import { sql } from '../database/index.ts';

/** The standing of a message as a record, and its next disposition. */
export interface Standing {
	class: ClassWord;
	/** Code of its series; null without one. */
	series: string | null;
	sentence: string;
}

/** The retention of a message and its origin, in a sentence. */
export async function standingOf({ db, dateOf }: Pick<Context, 'db' | 'dateOf'>, id: number): Promise<Standing> {
	const { items } = await itemsWhere(db, sql`item.id = ${id}`, 1, 0);
	const [item] = items;
	const retentions = await listRetentions(db);
	const retention = item?.retentionId == null ? undefined : retentions.get(item.retentionId);
	const ofClass = (await listClasses(db)).find(({ id: number }) => number === item?.class);
	const standing = { class: ofClass?.word ?? UNCLASSED, series: item?.series ?? null };
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
				: sourceWords({ kind: 'class', name: ofClass?.name ?? UNCLASSED });
	const archivedAt = own.state === 'archived' ? await archivingOf(db, id) : undefined;
	const told = {
		state: own.state,
		archivedOn: archivedAt === undefined ? undefined : dateOf(Date.parse(archivedAt) / 1000),
		due: item.dueOn && item.dueAction ? { action: item.dueAction, on: item.dueOn } : undefined,
		dateInDoubt: Boolean(item.dateInDoubt)
	};
	const isOff = (await getMailbox(db, item.mailboxId))?.retains === 'off';
	return { ...standing, sentence: itemSentence(told, retention.terms, source, { closedOn: folder?.closedOn, isOff }) };
}
