import { daysAfter } from '../../src/core/calendar.ts';
import { setClearing } from '../../src/lib/server/archive/index.ts';
import type { Context } from '../../src/lib/server/context/index.ts';
import { awaitAnswer, putOnPile } from '../../src/lib/server/desk/index.ts';
import { carryOut } from '../../src/lib/server/docket/index.ts';
import { decideMessages, find } from '../../src/lib/server/find/index.ts';
import { setSignature } from '../../src/lib/server/writing/index.ts';
import { AWAITED_SUBJECTS } from '../awaited.ts';
import { desk } from '../people.ts';

/* On the piles of the passenger desk: why each message waits, and for how many days. */
const PILES: { pile: string; query: string; because: string; days: number | undefined }[] = [
	{
		pile: 'A reply is owed',
		query: 'folder:Inbox subject:equipaje',
		because: 'The purser still searches the luggage room',
		days: 2
	},
	{ pile: 'For the board', query: 'folder:Inbox subject:ramp', because: 'The board meets', days: 6 },
	{ pile: 'For the board', query: 'folder:Inbox subject:charter', because: 'The price is to be decided', days: 6 },
	{ pile: 'To be counted', query: 'folder:Inbox subject:season', because: '', days: undefined }
];
const ON_A_PILE = 3;
/* So many messages wait at the passenger desk to be decided on. */
const ON_THE_DESK = 60;

/** The daily round of the passenger desk: what waits there, what lies on piles, and whose answers are awaited. */
export async function setTheDesk(context: Context): Promise<void> {
	const mailbox = 'Passenger desk';
	const { id: mailboxId } = await setClearing(context, { mailbox, addresses: [desk.address] });
	const on = (days: number) => daysAfter(context.dateOf(context.now().getTime() / 1000), days);
	const found = async (query: string, limit: number) =>
		(await find(context, { query, mailbox, states: ['live'], sort: 'newest', limit })).hits.map(({ id }) => id);
	const unread = await found('folder:Inbox unread', 10_000);
	const old = unread.slice(ON_THE_DESK);
	if (old.length > 0)
		for (const { docket, isDone } of await decideMessages(context, { ids: old, decision: 'read', options: {} }))
			if (docket !== undefined && !isDone) await carryOut(context, { id: docket });
	for (const { pile, query, because, days } of PILES) {
		const ids = (await found(`${query} not unread`, ON_A_PILE)).filter((id) => !unread.includes(id));
		if (ids.length > 0)
			await putOnPile(context, { mailboxId, ids, pile, because, until: days === undefined ? undefined : on(days) });
	}
	for (const [subject, days] of [
		[AWAITED_SUBJECTS.choir, undefined],
		[AWAITED_SUBJECTS.scouts, 1],
		[AWAITED_SUBJECTS.bell, 9]
	] as const) {
		const ids = await found(`folder:Inbox subject:"${subject}"`, 5);
		await awaitAnswer(context, { ids, because: 'we wrote last', until: days === undefined ? undefined : on(days) });
	}
	await setSignature(context, { mailboxId, signature: 'Passenger desk\nSkerry Line, Torsay quay' });
}
