import type { ListAsk } from '../../../../core/docket/decision.ts';
import type { Way } from '../../../../core/lists/ways.ts';
import { today } from '../../context/index.ts';
import type { ListWork } from '../../docket/index.ts';
import { selectWays, type SelectedWay, isOpen } from '../select-ways.ts';
import { addAttempts, countPendingAttempts, discardPendingAttempts } from '../unsubscribe-store.ts';
import { requireLists } from '../lists.ts';
import { listIds, listNames } from './lists-of-line.ts';

/* The stored text of a request. */
function targetOf(way: Way | undefined, ask: ListAsk | undefined): string {
	if (ask?.way === 'mail') return JSON.stringify({ to: ask.to, subject: ask.subject, text: ask.text });
	if (!way) return '';
	if (way.kind === 'mail') return way.to;
	return way.kind === 'footer' ? way.target : way.url;
}

const isSame = (a: ListAsk | undefined, b: ListAsk | undefined) =>
	a !== undefined &&
	b !== undefined &&
	a.way === b.way &&
	a.to === b.to &&
	a.subject === b.subject &&
	a.text === b.text;

/** Records which lists are to be asked, and how; `leaveLists` sends the requests. */
export const unsubscribe: ListWork = {
	about: 'lists',
	names: listNames,
	async begin(context, { line, mailbox }) {
		// another docket, or another line of this one, may have asked since this was drafted
		const ids = (await requireLists(context, mailbox.id, listIds(line))).filter(isOpen).map(({ id }) => id);
		const ways = await selectWays(context, mailbox, ids);
		const shown = new Map((line.options.asks ?? []).map((ask) => [ask.listId, ask]));
		await addAttempts(
			context.db,
			ids.map((listId) => {
				const { way, byHand, ask } = ways.get(listId) as SelectedWay;
				// a newer message of the list may name another request than the person saw: that is not sent
				const isSent = !byHand && isSame(ask, shown.get(listId));
				return {
					mailboxId: mailbox.id,
					listId,
					lineId: line.id,
					way: way?.kind ?? 'footer',
					target: targetOf(way, ask),
					state: isSent ? ('waiting' as const) : ('by-hand' as const),
					on: today(context),
					who: context.actor.name
				};
			})
		);
	},
	undo: ({ db }, line) => discardPendingAttempts(db, [line.id]),
	waiting: ({ db }, docketId) => countPendingAttempts(db, docketId),
	following: (docketId) => ({ useCase: 'leaveLists', input: { docketId }, about: { kind: 'lists' } })
};
