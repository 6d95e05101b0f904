import { daysAfter } from '../../src/core/calendar.ts';
import { setClearing } from '../../src/lib/server/archive/index.ts';
import type { Context } from '../../src/lib/server/context/index.ts';
import { awaitAnswer, putOnPile } from '../../src/lib/server/desk/index.ts';
import { carryOut } from '../../src/lib/server/docket/index.ts';
import { decideMessages, find } from '../../src/lib/server/find/index.ts';
import { requireMailbox } from '../../src/lib/server/mail/index.ts';
import { setSignature, storeMail } from '../../src/lib/server/writing/index.ts';
import { AWAITED_SUBJECTS } from '../awaited.ts';
import { desk, office } from '../people.ts';

interface OnAPile {
	pile: string;
	query: string;
	/** Why it waits, and for how many days. */
	because: string;
	days: number | undefined;
}

interface AwaitedThread {
	subject: string;
	because: string;
	days: number | undefined;
}

const PILES: OnAPile[] = [
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
const AWAITED: AwaitedThread[] = [
	{ subject: AWAITED_SUBJECTS.choir, because: 'we wrote last', days: undefined },
	{ subject: AWAITED_SUBJECTS.scouts, because: 'we wrote last', days: 1 },
	{ subject: AWAITED_SUBJECTS.bell, because: 'we wrote last', days: 9 }
];
const OFFICE_PILES: OnAPile[] = [
	{
		pile: 'For the yard',
		query: 'folder:Inbox subject:"life raft"',
		because: 'The yard sends its prices',
		days: 3
	},
	{ pile: 'To be translated', query: 'folder:Inbox subject:rower', because: '', days: undefined }
];
const OFFICE_AWAITED: AwaitedThread[] = [
	{ subject: 'Klage på støy fra generatoren', because: 'the electrician measures the noise', days: 5 }
];
const ON_A_PILE = 3;
/* So many messages wait at the passenger desk to be decided on. */
const ON_THE_DESK = 60;

const dayAhead = (context: Context, days: number) => daysAfter(context.dateOf(context.now().getTime() / 1000), days);

async function found(context: Context, mailbox: string, query: string, limit: number): Promise<number[]> {
	const { hits } = await find(context, { query, mailbox, states: ['live'], sort: 'newest', limit });
	return hits.map(({ id }) => id);
}

/* Puts mail that was read on piles, and lets threads wait for their answers. */
async function setAside(
	context: Context,
	mailbox: string,
	piles: readonly OnAPile[],
	awaited: readonly AwaitedThread[]
): Promise<void> {
	const { id: mailboxId } = await requireMailbox(context, mailbox);
	const until = (days: number | undefined) => (days === undefined ? undefined : dayAhead(context, days));
	for (const { pile, query, because, days } of piles) {
		const ids = await found(context, mailbox, `${query} not unread`, ON_A_PILE);
		if (ids.length > 0) await putOnPile(context, { mailboxId, ids, pile, because, until: until(days) });
	}
	for (const { subject, because, days } of awaited) {
		const ids = await found(context, mailbox, `folder:Inbox subject:"${subject}"`, 5);
		if (ids.length > 0) await awaitAnswer(context, { ids, because, until: until(days) });
	}
}

/** The daily round of the passenger desk: what waits there, what lies on piles, and whose answers are awaited. */
export async function setTheDesk(context: Context): Promise<void> {
	const mailbox = 'Passenger desk';
	const { id: mailboxId } = await setClearing(context, { mailbox, addresses: [desk.address] });
	const unread = await found(context, mailbox, 'folder:Inbox unread', 10_000);
	const old = unread.slice(ON_THE_DESK);
	// what lies on a pile was read before, not marked so
	await setAside(context, mailbox, PILES, AWAITED);
	if (old.length > 0)
		for (const { docket, isDone } of await decideMessages(context, { ids: old, decision: 'read', options: {} }))
			if (docket !== undefined && !isDone) await carryOut(context, { id: docket });
	await setSignature(context, { mailboxId, signature: 'Passenger desk\nSkerry Line, Torsay quay' });
}

/** What the harbour office has set aside, and its mail that is still to go: a draft, and one for tomorrow morning. */
export async function setTheOfficeAside(context: Context): Promise<void> {
	const mailbox = 'Harbour office';
	await setAside(context, mailbox, OFFICE_PILES, OFFICE_AWAITED);
	const { id: mailboxId } = await requireMailbox(context, mailbox);
	const mail = { mailboxId, kind: 'new' as const, from: office.address, cc: '', attachesOriginal: false, filing: {} };
	await storeMail(context, {
		...mail,
		to: 'berths@vesteroy-port.example',
		subject: 'Berth fees for next year',
		text: 'Please send us the fees for the two berths at the east quay, from January on.\n\nWe would also like to know'
	});
	await storeMail(context, {
		...mail,
		to: 'orders@northfuel.example',
		subject: 'Fuel for the week before Christmas',
		text: 'Please deliver 4,000 litres to the east quay on the first Monday of the week, before seven.',
		sendAt: `${dayAhead(context, 1)}T08:00:00Z`
	});
}
