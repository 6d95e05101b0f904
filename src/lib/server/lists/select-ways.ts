import type { ListAsk } from '../../../core/docket/decision.ts';
import { mailRequest } from '../../../core/lists/mail-request.ts';
import { isTakenByKovrel, type Way } from '../../../core/lists/ways.ts';
import type { Context } from '../context/index.ts';
import type { Mailbox } from '../mail/index.ts';
import { attemptsOn } from './unsubscribe-store.ts';
import { readWaysOf } from './list-ways.ts';
import type { ListRow } from './lists.ts';
import { listsById } from './lists-store.ts';
import { officeDomains } from './office-domains.ts';

/* A list with a request is not asked again automatically: only a person who saw the result does that, one by one. */
const SETTLED: readonly ListRow['standing'][] = ['waiting', 'sending', 'asked', 'confirmed', 'silent'];
/** Whether a list may still be asked. */
export const isOpen = ({ standing }: ListRow) => !SETTLED.includes(standing);

/** The way to unsubscribe from a list. */
export interface SelectedWay {
	way: Way | undefined;
	/** Whether it needs a person. */
	byHand: boolean;
	/** The request to send; undefined if it needs a person. */
	ask: ListAsk | undefined;
}

/**
 * The way Kovrel uses: the best one it can use itself, else the best for a person. A failed way is not repeated; the
 * next one is used.
 */
export async function selectWays(
	context: Context,
	mailbox: Mailbox,
	ids: readonly number[]
): Promise<Map<number, SelectedWay>> {
	const read = await readWaysOf(context, mailbox.id, ids);
	const office = await officeDomains(context.db);
	const lists = new Map((await listsById(context.db, ids)).map((list) => [list.id, list]));
	const canMail = context.outside.canSend && mailbox.addresses.length > 0;
	const selected = new Map<number, SelectedWay>();
	for (const id of ids) {
		const all = read.get(id)?.ways ?? [];
		const attempts = await attemptsOn(context.db, mailbox.id, id);
		const failed = new Set(attempts.filter(({ state }) => state === 'failed').map(({ way }) => way));
		const ways = all.filter(({ kind }) => !failed.has(kind));
		const { name = '', identifier = '', organisation = '' } = lists.get(id) ?? {};
		const asking = { sender: read.get(id)?.sender ?? '', organisation, office };
		const asks = ways.flatMap((way): { way: Way; ask: ListAsk }[] => {
			const about = { listId: id, list: name || identifier };
			if (way.kind === 'one-click')
				return [{ way, ask: { ...about, way: way.kind, to: way.url, subject: '', text: '' } }];
			const mail = way.kind === 'mail' && canMail ? mailRequest(way, asking) : undefined;
			return mail && 'to' in mail ? [{ way, ask: { ...about, way: 'mail', ...mail } }] : [];
		});
		const byPerson = ways.find(({ kind }) => !isTakenByKovrel(kind));
		const [own] = asks;
		selected.set(id, { way: own?.way ?? byPerson ?? all[0], byHand: own === undefined, ask: own?.ask });
	}
	return selected;
}
