// Sets what somebody at the ferry operator has set before the demo begins: set-up-office. KOVREL_DATA names the data folder.
import { daysAfter } from '../src/core/calendar.ts';
import { type Actor, administratorNamed, type Role } from '../src/core/access/roles.ts';
import type { ClassWord } from '../src/core/retention/classes.ts';
import { inTransaction, putSetting } from '../src/lib/server/database/index.ts';
import { dataFolder, openContext } from '../src/lib/server/process/index.ts';
import { signInByLink, endSessions } from '../src/lib/server/access/index.ts';
import { actingAs, type Context } from '../src/lib/server/context/index.ts';
import { carryOut } from '../src/lib/server/docket/index.ts';
import { decideArchiving, setClearing } from '../src/lib/server/archive/index.ts';
import { awaitAnswer, putOnPile } from '../src/lib/server/desk/index.ts';
import { decideMessages, find } from '../src/lib/server/find/index.ts';
import { type RetentionGiven, placeHold, setRetention, useStarterSchedule } from '../src/lib/server/retention/index.ts';
import { requireFolder, requireMailbox } from '../src/lib/server/mail/index.ts';
import { addRule, type RuleGiven } from '../src/lib/server/rules/index.ts';
import { setSignature } from '../src/lib/server/writing/index.ts';
import { AWAITED_SUBJECTS } from './awaited.ts';
import { desk } from './people.ts';
import {
	addPerson,
	askReviews,
	changeGroup,
	grant,
	makeRequest,
	requirePerson,
	setOwner
} from '../src/lib/server/people/index.ts';

/* The periods are those of the example schedule, and a few plain ones. Nothing is switched on. */
const FOLDERS: { mailbox: string; folders: string[]; retention: RetentionGiven; class?: ClassWord }[] = [
	{
		mailbox: 'Harbour office',
		folders: ['Fuel and chandlery'],
		retention: { series: 'FIN-01' },
		class: 'record'
	},
	{ mailbox: 'Harbour office', folders: ['Complaints'], retention: { series: 'CMP-01' }, class: 'record' },
	{ mailbox: 'Harbour office', folders: ['Newsletters'], retention: { terms: 'received destroy P2Y -' } },
	{ mailbox: 'Harbour office', folders: ['Berths', 'Vessels'], retention: { series: 'GEN-02' } },
	{ mailbox: 'Tove Marstrand', folders: ['Inbox'], retention: { terms: 'received destroy P6Y -' } },
	{ mailbox: 'Workshop', folders: ['Invoices'], retention: { series: 'FIN-01' }, class: 'record' },
	{ mailbox: 'Workshop', folders: ['Inspections'], retention: { series: 'LEG-01' } },
	{ mailbox: 'Passenger desk', folders: ['Lost property'], retention: { terms: 'received review P6M -' } }
];

/* Nobody's secret: they exist in the demo alone, which says so where one signs in. */
const PASSWORD = 'ferry to the demo islands';
const PEOPLE: { name: string; address: string; role: Role }[] = [
	{ name: 'Ylva Strand', address: 'ylva@skerryline.example', role: 'administrator' },
	{ name: 'Ruben Holm', address: 'ruben@skerryline.example', role: 'administrator' },
	{ name: 'Agnes Quill', address: 'agnes@skerryline.example', role: 'auditor' },
	{ name: 'Tove Marstrand', address: 'tove@skerryline.example', role: 'colleague' },
	{ name: 'Jonas Berg', address: 'jonas@skerryline.example', role: 'colleague' }
];

async function letPeopleIn(context: Context): Promise<void> {
	for (const person of PEOPLE) {
		const { link } = await addPerson(context, person);
		await signInByLink(context, {
			token: link,
			password: PASSWORD,
			from: { device: 'set up with the demo', address: 'demo' }
		});
		await endSessions(actingAs(context, await actorOf(context, person.name)), { except: 0 });
	}
	await inTransaction(context.db, (db) =>
		putSetting(db, 'demo-accounts', JSON.stringify(PEOPLE.map((person) => ({ ...person, password: PASSWORD }))))
	);
	await setOwner(context, { mailbox: 'Tove Marstrand', owner: 'Tove Marstrand', tidies: true });
	await changeGroup(context, { group: 'Passenger desk', members: ['Tove Marstrand', 'Jonas Berg'] });
	await grant(context, { to: 'Passenger desk', mailbox: 'Passenger desk', find: true, restore: true });
	await grant(context, {
		to: 'Jonas Berg',
		mailbox: 'Harbour office',
		folder: 'Complaints',
		find: true,
		restore: false
	});
	await grant(context, {
		to: 'Tove Marstrand',
		mailbox: 'Harbour office',
		find: true,
		restore: false,
		until: '2027-06-30'
	});
}

/* What waits for an answer when the demo begins. */
async function letThemAsk(context: Context): Promise<void> {
	const jonas = actingAs(context, await actorOf(context, 'Jonas Berg'));
	const { hits } = await find(jonas, { query: '', states: ['archived'], sort: 'newest', limit: 3 });
	await makeRequest(jonas, {
		ids: hits.map(({ id }) => id),
		because: 'The passenger has written again, and I have nothing to answer from.'
	});
	const tove = actingAs(context, await actorOf(context, 'Tove Marstrand'));
	await makeRequest(tove, {
		mailbox: 'Workshop',
		folder: 'Inspections',
		because: 'I prepare the yard time of the Terne.'
	});
}

/* What stands in the harbour office when the demo begins; the second and the fourth meet in the Harbour Times. */
const STANDING: RuleGiven[] = [
	{ name: 'Sent mail', query: 'folder:Sent', stay: { olderThan: 'P3M' }, then: 'archive', options: {} },
	{
		name: 'Harbour Times',
		query: 'list:harbourtimes',
		stay: { newest: 3, olderThan: 'P30D' },
		then: 'archive',
		options: {}
	},
	{
		name: 'Dead advertisements',
		query: 'kind:advertisement folder:Inbox',
		stay: { olderThan: 'P10D' },
		then: 'delete',
		options: { leavesFlagged: true }
	},
	{
		name: 'All newsletters in one folder',
		query: 'kind:advertisement or kind:list',
		stay: {},
		then: 'move',
		options: { folder: 'Newsletters' }
	},
	{ name: 'Berth bookings', query: 'folder:Berths', stay: { newest: 200 }, then: 'archive', options: {} },
	{
		name: 'Notices',
		query: 'kind:notice folder:Inbox',
		stay: { newest: 20, per: 'sender' },
		then: 'archive',
		options: { leavesFlagged: true }
	},
	{ name: 'Automatic notices', query: 'kind:automatic', stay: { olderThan: 'P30D' }, then: 'delete', options: {} },
	{ name: 'MV Terne', query: 'subject:terne', stay: {}, then: 'tag', options: { tag: 'Vessels/MV Terne' } }
];

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

/* The daily round of the passenger desk: what waits there, what lies on piles, and whose answers are awaited. */
async function setTheDesk(context: Context): Promise<void> {
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

async function actorOf(context: Context, name: string): Promise<Actor> {
	const person = await requirePerson(context.db, name);
	return { personId: person.id, name: person.name, role: person.role };
}

const context = await openContext(dataFolder(), { actor: administratorNamed('Set up with the demo') });
try {
	await letPeopleIn(context);
	const { id: archiving } = await decideArchiving(context, {
		mailbox: 'Harbour office',
		folder: 'Complaints',
		before: '2023'
	});
	await carryOut(context, { id: archiving });
	await letThemAsk(context);
	await useStarterSchedule(context);
	for (const { mailbox: name, folders, retention, class: recordClass } of FOLDERS) {
		const mailbox = await requireMailbox(context, name);
		const folderIds: number[] = [];
		for (const path of folders) folderIds.push((await requireFolder(context, mailbox, path)).id);
		await setRetention(context, {
			wish: { kind: 'folders', folderIds, retention, ...(recordClass ? { class: recordClass } : {}) }
		});
	}
	await setRetention(context, {
		wish: { kind: 'named', name: 'Drafts', retention: { terms: 'received destroy P1Y -' }, class: 'working' }
	});
	await setTheDesk(actingAs(context, await actorOf(context, 'Ylva Strand')));
	for (const rule of STANDING) await addRule(context, { mailbox: 'Harbour office', rule });
	const { id } = await requireMailbox(context, 'Harbour office');
	await setRetention(context, {
		wish: { kind: 'default', mailboxId: id, retention: { terms: 'received archive P5Y -' } }
	});
	const tove = await requireMailbox(context, 'Tove Marstrand');
	await setRetention(context, {
		wish: { kind: 'default', mailboxId: tove.id, retention: { terms: 'received archive P3Y -' } }
	});
	await askReviews(actingAs(context, await actorOf(context, 'Ylva Strand')), {
		mailboxIds: [tove.id],
		until: daysAfter(context.dateOf(context.now().getTime() / 1000), 21),
		because: 'The new schedule begins next month'
	});
	await placeHold(context, {
		name: 'Terne claim',
		because: 'The insurer asks for everything about the Terne',
		from: 'Berglund Solicitors',
		query: 'terne'
	});
} finally {
	await context.db.destroy();
}
