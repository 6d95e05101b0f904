import type { DemoMessage, Person } from './compose.ts';
import { desk } from './people.ts';

const DAY = 86_400_000;

const kaja: Person = { name: 'Kaja Lund', address: 'kaja@islandchoirs.example' };
const piet: Person = { name: 'Piet Aalders', address: 'piet@dunescouts.example' };
const imre: Person = { name: 'Imre Falk', address: 'imre@bellfoundry.example' };

const at = (today: Date, days: number, hour: number) =>
	new Date(Date.UTC(today.getUTCFullYear(), today.getUTCMonth(), today.getUTCDate()) + days * DAY + hour * 3_600_000);

/** The subjects of the threads that wait, by which the set-up finds them. */
export const AWAITED_SUBJECTS = {
	choir: 'Evening crossing for forty singers',
	scouts: 'Tents and canoes on the early ferry',
	bell: 'A bell of 600 kg to Torsay'
};

/** Threads of the passenger desk that wait for somebody else. */
export function awaitedThreads(today: Date): DemoMessage[] {
	const ask = (from: Person, id: string, subject: string, days: number, text: string): DemoMessage => ({
		from,
		to: [desk],
		subject,
		at: at(today, days, 9),
		id: `${id}.ask@${from.address.split('@')[1]}`,
		text,
		seen: true,
		answered: true
	});
	return [
		ask(
			kaja,
			'choir',
			AWAITED_SUBJECTS.choir,
			-9,
			'Can the 19:00 ferry take forty singers and a harmonium on the 12th?'
		),
		ask(piet, 'scouts', AWAITED_SUBJECTS.scouts, -6, 'We are 28, with nine tents and four canoes. What does it cost?'),
		ask(
			imre,
			'bell',
			AWAITED_SUBJECTS.bell,
			-3,
			'The bell is on a pallet of 1.2 by 1.2 metres. Which ferry can take it?'
		)
	];
}

/** What the passenger desk wrote in them, without a word since. */
export function awaitedAnswers(today: Date): DemoMessage[] {
	const wrote = (to: Person, id: string, subject: string, days: number, text: string): DemoMessage => ({
		from: desk,
		to: [to],
		subject: `Re: ${subject}`,
		at: at(today, days, 14),
		id: `${id}.answer@mail.skerryline.example`,
		references: [`${id}.ask@${to.address.split('@')[1]}`],
		text,
		sent: true,
		seen: true
	});
	return [
		wrote(kaja, 'choir', AWAITED_SUBJECTS.choir, -8, 'Yes, if we know by the 5th how many come back the same evening.'),
		wrote(
			piet,
			'scouts',
			AWAITED_SUBJECTS.scouts,
			-5,
			'The offer is attached in words: 312 with the canoes. Do you take it?'
		),
		wrote(imre, 'bell', AWAITED_SUBJECTS.bell, -2, 'MV Terne can, on a Tuesday. Please send the papers of the foundry.')
	];
}

/** The answer that comes on the day after the demo begins. */
export function answerOfTomorrow(day: Date): DemoMessage {
	return {
		from: kaja,
		to: [desk],
		subject: `Re: ${AWAITED_SUBJECTS.choir}`,
		at: at(day, 0, 8),
		id: 'choir.numbers@islandchoirs.example',
		references: ['choir.ask@islandchoirs.example', 'choir.answer@mail.skerryline.example'],
		text: 'Thirty-one come back the same evening, nine stay on the island. The harmonium stays too.',
		seen: false
	};
}
