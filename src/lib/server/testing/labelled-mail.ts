import { letter } from './office.ts';

/* Mail in the style of the demo, each labelled by a person. */

/** A person's label for a message. */
export type Label = 'redundant' | 'thanks' | 'automatic' | 'leftover' | 'expired' | 'none';

/** A message with its label. */
export interface Labelled {
	text: string;
	label: Label;
}

const day = (n: number) => `${(n % 27) + 1} Mar ${2015 + (n % 8)} 1${n % 10}:00:00 +0000`;
const withField = (text: string, field: string) => text.replace('\n\n', `\n${field}\n\n`);
const withId = (text: string, id: string) => text.replace(/Message-ID: <.*>/, `Message-ID: <${id}@x.example>`);
const quoted = (text: string, mark = '> ') =>
	text
		.split('\n')
		.map((line) => `${mark}${line}`.trimEnd())
		.join('\n');

const LETTERS = [
	'Could you confirm the number of trailers?\nThe ramp limit is twelve tonnes an axle.\n\nBirgit',
	'The linkspan was stiff again this morning. We greased it, and it behaves,\nbut I would not promise it for the winter.',
	'We took on 4,200 litres at the east quay. The slip is attached to the log; the price was 11.40.\n\nEmre',
	'The passenger lift is out of order until the part comes.\nThe crew carries luggage meanwhile; the winter part is on order.',
	'Nothing urgent, but it ought to be settled before the season starts: who signs for the fuel?'
];

/* How a reply quotes the message it answers, and whether completely. */
const REPLIES: [Label, (text: string) => string][] = [
	['redundant', (text) => `Fine.\n\nOn 2 March Birgit wrote:\n${quoted(text)}`],
	['redundant', (text) => `${quoted(text)}\n\nFine.`],
	['redundant', (text) => `See below.\n\n${quoted(text, '>> ')}`],
	['redundant', (text) => `Yes.\n\n${quoted(text.replace(/\s+/g, ' ').replace(/(.{30,45}) /g, '$1\n'))}`],
	['redundant', (text) => `${quoted(text, '>')}\n\nI will see to it.`],
	['none', (text) => `Fine.\n\n${quoted(text.split('\n').slice(0, -1).join('\n') || text.slice(0, 40))}`],
	['none', (text) => `Fine.\n\n${quoted(text.replace(/\b(twelve|winter|4,200|fuel)\b/, '[…]'))}`],
	['none', (text) => `${quoted(text.slice(0, 50))}\nReally?\n${quoted(text.slice(50).replace(/^\s*\S+/, ''))}`],
	['none', () => 'Fine, I will see to it before Friday.'],
	// without marks, and whole all the same
	['redundant', (text) => `Fine.\n\n${text}`]
];

function threads(): Labelled[] {
	return LETTERS.flatMap((text, at) =>
		REPLIES.flatMap(([label, reply], form): Labelled[] => {
			const [id, subject] = [`q${at}-${form}`, `Question ${at} ${form}`];
			return [
				{ text: withId(letter(subject, day(at + form), text), id), label },
				{
					text: withId(
						withField(letter(`Re: ${subject}`, day(at + form + 1), reply(text)), `References: <${id}@x.example>`),
						`${id}-a`
					),
					label: 'none'
				}
			];
		})
	);
}

const THANKS = [
	'Thank you!',
	'Thanks, Emre.',
	'Many thanks for this.',
	'Noted.',
	'Got it, thanks',
	'Will do.',
	'Vielen Dank!',
	'Merci beaucoup',
	'Muchas gracias.',
	'OK',
	'Received with thanks.',
	'Perfect, thank you!',
	'Thanks\n\nTove',
	'Thanks a lot.\n\n-- \nTove\nSkerryline'
];
const NOT_THANKS = [
	'Thanks. When does the lift come back?',
	'Thank you for the offer; we decline.\nPlease send the new price list by Friday.',
	'Thanks to the fog we sail at nine.\nAll bookings move by two hours.',
	'No thanks, the price of 4,200 is too high for us and we go to the other yard.',
	'OK for the ramp, not for the quay: the contract says twelve tonnes.',
	'The part has come.',
	'See you at nine.',
	'Yes.',
	'Received 14 pallets, one is damaged; the slip has my remark.',
	'Noted that the inspection is on 4 May and that the certificate ends in June.'
];

const OTHERS: [Label, string, string][] = [
	['automatic', 'Auto-Submitted: auto-replied', 'I am away until Monday.'],
	['automatic', 'Precedence: auto_reply', 'Out of the office.'],
	[
		'automatic',
		'Content-Type: multipart/report; report-type=delivery-status; boundary=b',
		'--b\n\nNot delivered.\n--b--'
	],
	[
		'automatic',
		'Content-Type: multipart/report; report-type=disposition-notification; boundary=b',
		'--b\n\nRead.\n--b--'
	],
	['expired', 'Expires: Thu, 05 Mar 2020 10:00:00 +0000', 'The offer ends on 5 March.'],
	['none', 'Expires: Thu, 05 Mar 2099 10:00:00 +0000', 'The contract ends in 2099.'],
	['none', 'Auto-Submitted: no', 'Written by hand.'],
	['none', 'Precedence: first-class', 'Written by hand too.']
];

/** Completely. */
export function labelledMail(): Labelled[] {
	const short = (texts: readonly string[], label: Label, name: string): Labelled[] =>
		texts.map((text, at) => ({ text: withId(letter(`${name} ${at}`, day(at), text), `${name}${at}`), label }));
	return [
		...threads(),
		...short(THANKS, 'thanks', 'thanks'),
		...short(NOT_THANKS, 'none', 'other'),
		...OTHERS.map(([label, field, text], at) => ({
			text: withId(withField(letter(`Header ${at}`, day(at), text), field), `header${at}`),
			label
		})),
		{ text: withId(letter('', day(3), ''), 'empty'), label: 'leftover' }
	];
}
