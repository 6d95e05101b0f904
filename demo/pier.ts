import { compose, type DemoMessage, type Person } from './compose.ts';
import { csv, type DemoFile, pdf, photograph } from './files.ts';
import { colleagues, office, suppliers } from './people.ts';
import { Dice } from './random.ts';

/* The mailbox of the pier on Torsay, which lives on a mail server and is nearly full of photographs. */

const DAY = 86_400_000;

/** The mailbox and its account on the mail server of the demo. */
export const PIER = { mailbox: 'Torsay pier', user: 'pier', password: 'the pier of the demo' };

const pier: Person = { name: 'Torsay Pier', address: 'pier@skerryline.example' };
const tides: Person = { name: 'Tide Tables', address: 'tables@tidesoffice.example' };

/** A message for the mail server. */
export interface PierMail {
	folder: string;
	bytes: Buffer;
	flags: string[];
	date: number;
}

const PARTS = ['fender', 'ramp hinge', 'bollard', 'handrail', 'mooring ring', 'lamp', 'gangway', 'life buoy'];
const FAULTS = ['is cracked', 'has come loose', 'rusts through', 'was hit by a trailer', 'needs paint', 'squeaks'];

function letter(
	dice: Dice,
	at: Date,
	pictures: readonly DemoFile[],
	number: number
): { folder: string; mail: DemoMessage } {
	const part = dice.pick(PARTS);
	const id = `${at.getTime()}.${number}`;
	const kind = dice.between(0, 9);
	const of = (from: Person, subject: string, text: string, also: Partial<DemoMessage> = {}): DemoMessage => ({
		from,
		to: [pier],
		subject,
		at,
		id: `${id}@${from.address.split('@')[1] ?? ''}`,
		text,
		...also
	});
	if (kind < 4) {
		const berth = dice.between(1, 4);
		return {
			folder: 'INBOX',
			mail: of(
				dice.pick(colleagues),
				`Berth ${berth}: the ${part} ${dice.pick(FAULTS)}`,
				`Seen this morning at berth ${berth}. Pictures are below; it can wait until the ${dice.pick(['slack week', 'next spring tide', 'fitters come'])}.`,
				{ files: [dice.pick(pictures), ...(dice.chance(0.4) ? [dice.pick(pictures)] : [])] }
			)
		};
	}
	if (kind < 6)
		return {
			folder: 'INBOX',
			mail: of(tides, 'Tides of the week at Torsay', 'High and low water for the week are in the table.', {
				files: [
					csv('tides.csv', [
						['day', 'high', 'low'],
						...Array.from({ length: 7 }, (_, day) => [
							String(day + 1),
							`${dice.between(0, 11)}:4${day}`,
							`${dice.between(12, 23)}:1${day}`
						])
					])
				],
				header: [
					'List-Id: Tide tables <tides.tidesoffice.example>',
					'List-Unsubscribe: <mailto:leave@tides.tidesoffice.example>',
					'Precedence: bulk'
				]
			})
		};
	if (kind < 8) {
		const supplier = dice.pick(suppliers);
		return {
			folder: 'Orders',
			mail: of(
				supplier,
				`Delivery note ${dice.between(2_000, 9_999)}: ${part}`,
				`We delivered one ${part} to the pier. The note is attached.`,
				{
					files: [pdf('delivery-note.pdf', [`One ${part}`, 'Received in good order'])]
				}
			)
		};
	}
	return {
		folder: 'INBOX',
		mail: of(
			office,
			`Passengers waiting on ${dice.pick(['Friday', 'Saturday', 'Sunday'])}`,
			`About ${dice.between(20, 180)} people will wait for the ${dice.between(8, 19)}:30 ferry. Please open the shelter.`
		)
	};
}

function pierMail(dice: Dice, day: Date, pictures: readonly DemoFile[], count: number, isOld: boolean): PierMail[] {
	return Array.from({ length: count }, (_, number) => {
		const at = new Date(day.getTime() + dice.between(6, 15) * 3_600_000 + dice.between(0, 3_599) * 1_000);
		const { folder, mail } = letter(dice, at, pictures, number);
		return {
			folder,
			bytes: compose(mail),
			flags: isOld ? ['\\Seen', ...(dice.chance(0.05) ? ['\\Flagged'] : [])] : [],
			date: at.getTime() + 4_000
		};
	});
}

const picturesOf = (seed: number) => {
	const dice = new Dice(seed);
	return Array.from({ length: 12 }, (_, n) => photograph(dice, `berth-${n + 1}.png`, 240, 160));
};

/** What lay there when the demo began: three years, the last two weeks of it unread. */
export function pierMailUntil(today: Date, seed: number): PierMail[] {
	const dice = new Dice(seed);
	const pictures = picturesOf(seed);
	const start = Date.UTC(today.getUTCFullYear(), today.getUTCMonth(), today.getUTCDate());
	return Array.from({ length: 270 }, (_, n) => 1080 - 4 * n).flatMap((daysAgo) =>
		pierMail(dice, new Date(start - daysAgo * DAY), pictures, 1, daysAgo > 14)
	);
}

/** What comes there on a day. */
export function pierMailOf(day: Date, seed: number): PierMail[] {
	const dice = new Dice(seed + Math.floor(day.getTime() / DAY));
	return pierMail(dice, day, picturesOf(seed), dice.between(1, 3), false);
}
