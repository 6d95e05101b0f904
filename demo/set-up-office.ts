// Lets the ferry operator work with Kovrel for eighteen months, until today: set-up-office [SEED]. KOVREL_DATA names the data folder,
// KOVREL_STANDINS the outside that answers meanwhile.
import { mkdirSync } from 'node:fs';
import { type CalendarDate, daysAfter, monthsBefore } from '../src/core/calendar.ts';
import { administratorNamed } from '../src/core/access/roles.ts';
import { readBytes } from '../src/core/weigh/units.ts';
import { prepareEmptying, setClearing } from '../src/lib/server/archive/index.ts';
import { backUp, setBackupFolder } from '../src/lib/server/backup/index.ts';
import type { Context } from '../src/lib/server/context/index.ts';
import { makeDigests, setDigest } from '../src/lib/server/digest/index.ts';
import { carryOut, prepareDocket } from '../src/lib/server/docket/index.ts';
import { restore } from '../src/lib/server/find/index.ts';
import { pauseFolder } from '../src/lib/server/folders/index.ts';
import { decideKeepList } from '../src/lib/server/keep-list/index.ts';
import { decideLists, listIds, markSender } from '../src/lib/server/lists/index.ts';
import { findProposals } from '../src/lib/server/lots/index.ts';
import { changeTag, closeParsePool, requireMailbox, setQuota } from '../src/lib/server/mail/index.ts';
import { dataFolder, openContext, prepareDataFolder } from '../src/lib/server/process/index.ts';
import { answerRequest, askReviews, makeRequest, setAccess } from '../src/lib/server/people/index.ts';
import { placeHold, releaseHold, setPolicy } from '../src/lib/server/retention/index.ts';
import { addRule } from '../src/lib/server/rules/index.ts';
import { setTheDesk, setTheOfficeAside } from './history/desk.ts';
import { bringInMail, type Unsubscribed } from './history/mail-by-month.ts';
import { adoptSchedule } from './history/records.ts';
import { as, letPeopleIn, shareMailboxes } from './history/staff.ts';
import { STANDING } from './history/standing.ts';
import {
	actOnRules,
	archiveBefore,
	decideFound,
	emptyDueBin,
	followSchedule,
	lookUp,
	regret,
	switchRunOn,
	unsubscribe
} from './history/work.ts';
import { desk, office, smallerLists, lists as largeLists, tove, workshop } from './people.ts';
import { Scenario } from './scenario.ts';

const [seed = '4711'] = process.argv.slice(2);
const MONTHS = 18;
const DAY_MS = 86_400_000;
const OFFICE = 'Harbour office';

/* Left in the first month; the last one writes on. */
const LEFT = [
	'prices.northfuel.example',
	'offers.anchorandrope.example',
	'tips.islandevents.example',
	'news.holmpaint.example'
];
const WRITES_ON = 'deals.deckandengine.example';
const FOLDED = ['product.ticketry.example', 'notices.vesteroy-port.example'];
/* Days for which the digests have been made. */
const DIGESTS = 30;

const today = process.env.KOVREL_NOW ? new Date(process.env.KOVREL_NOW) : new Date();
const scenario = [...new Scenario(Number(seed), today).mailboxes()];
await prepareDataFolder(dataFolder(), { isFirst: true });
const opened = await openContext(dataFolder(), { actor: administratorNamed('Set up with the demo') });
/* The clock of the history. */
let at = today;
const context: Context = { ...opened, now: () => at, clockIsGiven: true };
const on = (): CalendarDate => context.dateOf(at.getTime() / 1000);
const first = monthsBefore(`${opened.dateOf(today.getTime() / 1000).slice(0, 7)}-01`, MONTHS);

/* Sets the clock to a day of the history, so many months after its first, in working hours; never back. */
function go(month: number, day: number, hour = 9): Date {
	const then = new Date(`${daysAfter(monthsBefore(first, -month), day - 1)}T${String(hour).padStart(2, '0')}:00:00Z`);
	const latest = new Date(today.getTime() - 60_000);
	at = then > latest ? latest : then < at && at !== today ? new Date(at.getTime() + 60_000) : then;
	return at;
}

const ylva = await begin();
const ruben = await as(context, 'Ruben Holm');
const jonas = await as(context, 'Jonas Berg');
const tovesOwn = await as(context, 'Tove Marstrand');
const gone: Unsubscribed[] = [];

/* The people, and the mail until the first day. */
async function begin(): Promise<Context> {
	go(0, 1, 7);
	await letPeopleIn(context);
	const administrator = await as(context, 'Ylva Strand');
	await bringInMail(administrator, scenario, { since: undefined, until: at, gone: [], name: 'from the old server' });
	for (const { mailbox, quota } of scenario)
		await setQuota(administrator, { mailbox, bytes: readBytes(quota) ?? undefined });
	for (const [mailbox, person] of [
		[OFFICE, office],
		['Tove Marstrand', tove],
		['Workshop', workshop],
		['Passenger desk', desk]
	] as const)
		await setClearing(administrator, { mailbox, addresses: [person.address] });
	await shareMailboxes(administrator);
	return administrator;
}

const idOf = async (mailbox: string) => (await requireMailbox(context, mailbox)).id;

/* ---- the first month: weigh, stop the inflow, take the bulk out, decide what stays ---- */

go(0, 2);
await setPolicy(ylva, { owner: 'Ylva Strand, for the board of Skerry Line', firstMonth: 4 });
await adoptSchedule(ylva);
await archiveBefore(ylva, OFFICE, monthsBefore(on(), 24), 'Passenger claims');
go(0, 3);
// a mistake, noticed the next morning
const mistake = await archiveBefore(ruben, 'Workshop', monthsBefore(on(), 12));
go(0, 4);
await regret(ruben, mistake);
await placeHold(ylva, {
	name: 'Slipway claim',
	because: 'The yard disputes the cradle that gave way',
	from: 'Berglund Solicitors',
	query: 'subject:inspection skarv'
});
go(0, 8);
await unsubscribe(ylva, OFFICE, [...LEFT, WRITES_ON]);
for (const list of LEFT) {
	const { from } = [...largeLists, ...smallerLists].find(({ listId }) => listId === list) ?? {};
	if (from) gone.push({ mailbox: OFFICE, from: from.address, on: at });
}
await decideFolded();
go(0, 12);
await decideFound(ylva, OFFICE, `kind:advertisement folder:Inbox unread before:${monthsBefore(on(), 12)}`, 'delete');
for (const [tag, make] of [
	['Vessels/MV Skarv', 'harbour'],
	['Vessels/MV Terne', 'kelp'],
	['Vessels/MV Alke', 'buoy'],
	['Insurance', 'rust'],
	['Season', 'heather'],
	['Season/Summer', 'heather'],
	['To the board', 'slate']
] as const)
	await changeTag(ylva, { tag, make });
for (const [query, tag] of [
	['subject:skarv', 'Vessels/MV Skarv'],
	['subject:terne', 'Vessels/MV Terne'],
	['subject:alke', 'Vessels/MV Alke'],
	['from:mutualhull or subject:raft', 'Insurance'],
	['subject:season', 'Season']
] as const)
	await decideFound(ylva, OFFICE, query, 'tag', { tag });
go(0, 20);
for (const rule of STANDING) await addRule(ylva, { mailbox: OFFICE, rule });
await actOnRules(ylva, OFFICE);

async function decideFolded(): Promise<void> {
	const mailboxId = await idOf(OFFICE);
	await setDigest(ylva, { mailbox: OFFICE, every: 'day', folder: 'Newsletters' });
	const ids = await listIds(ylva, FOLDED);
	const { id } = await decideLists(ylva, { mailboxId, ids, decision: 'digest', backIssues: 'leave' });
	await carryOut(ylva, { id });
}

/* ---- month by month ---- */

/* What happens in a month beside the mail that comes in. */
const EVENTS: Record<number, () => Promise<void>> = {
	1: async () => {
		await emptyDueBin(ruben, OFFICE);
		await archiveBefore(ylva, OFFICE, monthsBefore(on(), 36), 'Fuel and chandlery');
	},
	2: async () => {
		await archiveBefore(ruben, 'Passenger desk', monthsBefore(on(), 36));
		await markSender(ylva, { sender: 'lucky-draw.example', verdict: 'block' });
	},
	3: async () => {
		await switchRunOn(ylva, 'Passenger desk');
	},
	4: async () => {
		await findProposals(ylva, { mailboxId: await idOf('Workshop') });
		const scope = {
			kind: 'proposal' as const,
			proposal: 'same-content',
			ids: undefined,
			label: 'that took another way'
		};
		const { id, messages } = await prepareDocket(ruben, {
			mailboxId: await idOf('Workshop'),
			lines: [{ decision: 'delete', options: {}, scope }]
		});
		if (messages > 0) await carryOut(ruben, { id });
	},
	5: async () => {
		const ids = await lookUp(jonas, 'klage', 2);
		const [id] = await makeRequest(jonas, {
			ids: ids.slice(0, 2),
			because: 'The passenger has written again, and I have nothing to answer from.'
		});
		go(5, 21);
		if (id !== undefined) await answerRequest(ylva, { id, word: 'Both are back. Good luck with the answer.' });
	},
	6: async () => {
		await emptyDueBin(ruben, 'Workshop');
		await archiveBefore(ylva, OFFICE, monthsBefore(on(), 48), 'Vessel inspections');
	},
	7: async () => {
		const text = 'claim number 2019-44\nslipway\nMutual Hull';
		for (const { id, messages } of await decideKeepList(ylva, { text, decision: 'keep', options: {}, standing: true }))
			if (messages > 0) await carryOut(ylva, { id });
	},
	8: async () => {
		await lookUp(tovesOwn, 'ramp limit', 3);
		await pauseFolder(ylva, {
			mailbox: OFFICE,
			folder: 'Berth permits',
			until: daysAfter(context.dateOf(today.getTime() / 1000), 120),
			because: 'The harbour office is building a new list of berths'
		});
	},
	9: async () => {
		await releaseHold(ylva, { name: 'Slipway claim', because: 'Settled; the yard has paid' });
	},
	10: async () => {
		const back = await lookUp(ylva, 'invoice slipworks', 1);
		await restore(ylva, { ids: back.slice(0, 3) });
		await archiveBefore(ylva, 'Tove Marstrand', monthsBefore(on(), 48));
	},
	12: async () => {
		await archiveBefore(ylva, OFFICE, monthsBefore(on(), 36));
		await emptyDueBin(ruben, 'Passenger desk');
	},
	13: async () => {
		await placeHold(ylva, {
			name: 'Terne claim',
			because: 'The insurer asks for everything about the Terne',
			from: 'Berglund Solicitors',
			query: 'terne'
		});
	},
	15: async () => {
		await setAccess(ylva, { approvalDemanded: true });
		await lookUp(jonas, 'equipaje', 2);
	},
	16: async () => {
		const ids = await lookUp(jonas, 'kaia', 0);
		const [id] = await makeRequest(jonas, {
			ids: ids.slice(0, 1),
			because: 'A neighbour asks what was promised in 2021.'
		});
		go(16, 22);
		if (id !== undefined)
			await answerRequest(ylva, {
				id,
				decline: true,
				word: 'That was answered by letter in May; ask me for the copy.'
			});
	}
};

let since = new Date(`${first}T07:00:00Z`);
for (let month = 0; month < MONTHS; month++) {
	go(month, 18);
	await EVENTS[month]?.();
	// in the first year every second month
	if (month < MONTHS - 6 && month % 2 === 0) continue;
	const until = go(month + 1, 1, 7);
	await bringInMail(ylva, scenario, { since, until, gone, name: on().slice(0, 7) });
	since = until;
	await actOnRules(ylva, OFFICE);
	if (month >= 3) await followSchedule(ylva, 'Passenger desk');
}

/* ---- the last month, until today ---- */

for (let days = DIGESTS; days > 0; days--) {
	const day = new Date(today.getTime() - days * DAY_MS);
	if (day <= at) continue;
	at = day;
	await makeDigests(ylva);
}
at = new Date(today.getTime() - 120_000);
await bringInMail(ylva, scenario, { since, until: at, gone, name: 'this month' });
await findProposals(ylva, { mailboxId: await idOf(OFFICE) });
await setTheDesk(ylva);
await setTheOfficeAside(ylva);
// what waits today
const wanted = await lookUp(jonas, 'bagage or equipaje or sac', 0);
await makeRequest(jonas, { ids: wanted.slice(0, 3), because: 'The insurer wants the first letter.' });
await makeRequest(tovesOwn, {
	mailbox: 'Workshop',
	folder: 'Yard and inspections',
	because: 'I prepare the yard time of the Terne.'
});
await askReviews(ylva, {
	mailboxIds: [await idOf('Tove Marstrand')],
	until: daysAfter(on(), 21),
	because: 'Crew certificates move to the new schedule'
});
// prepared by one administrator, to be approved by another
await prepareEmptying(ruben, { mailboxId: await idOf(OFFICE), onlyDue: false });
const backups = `${dataFolder()}-backups`;
mkdirSync(backups, { recursive: true });
await setBackupFolder(ylva, { folder: backups });
await backUp(ylva, { out: backups });
await closeParsePool();
await context.db.destroy();
