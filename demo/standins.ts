// The outside of the demo, on loopback: list operators, outgoing mail, and a post office that brings new mail.
// standins FOLDER [SEED]: writes FOLDER/standins.json, which says where they listen, and runs until it is ended.
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { startStandIns } from '../src/lib/server/standins/start.ts';
import { answerOfTomorrow } from './awaited.ts';
import { compose, mboxEntry } from './compose.ts';
import { lists, smallerLists } from './people.ts';
import { PIER, pierMailOf, pierMailUntil } from './pier.ts';
import { Scenario } from './scenario.ts';

const [folder, seed = '4711'] = process.argv.slice(2);
if (!folder) {
	process.stderr.write('usage: standins FOLDER [SEED]\n');
	process.exit(2);
}
const DAY_MS = 86_400_000;

/* The day on which the demo began: an answer that is awaited comes on the next one. */
const begunFile = path.join(folder, 'begun.txt');
if (!existsSync(begunFile)) {
	mkdirSync(folder, { recursive: true });
	writeFileSync(begunFile, (process.env.KOVREL_NOW ?? new Date().toISOString()).slice(0, 10));
}
const begun = readFileSync(begunFile, 'utf8');

function* answers(day: string) {
	if (Date.parse(day) !== Date.parse(begun) + DAY_MS) return;
	const answer = answerOfTomorrow(new Date(day));
	yield { mailbox: 'Passenger desk', path: 'Inbox', mbox: mboxEntry(compose(answer), answer) };
}

const { where, close } = await startStandIns(folder, {
	manners: new Map([...lists, ...smallerLists].map(({ listId, manner }) => [listId, manner])),
	// a scenario that ends the day after: its last day is the one that is asked for
	post: (hasLeft) =>
		function* (day) {
			yield* new Scenario(Number(seed) + Date.parse(day) / DAY_MS, new Date(Date.parse(day) + DAY_MS)).post(hasLeft);
			yield* answers(day);
		},
	live: {
		user: PIER.user,
		password: PIER.password,
		share: 0.93,
		first: () => pierMailUntil(new Date(begun), Number(seed)),
		arrivals: (day) => pierMailOf(new Date(day), Number(seed))
	}
});
writeFileSync(path.join(folder, 'standins.json'), JSON.stringify({ ...where, live: PIER }), { mode: 0o600 });
const LONGEST_END_MS = 2_000;
const end = () => {
	setTimeout(() => process.exit(0), LONGEST_END_MS);
	void close().then(() => process.exit(0));
};
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, end);
// nobody is left to stand in for when whoever started this is gone
if (process.send) process.on('disconnect', end);
