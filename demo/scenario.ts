import { awaitedAnswers, awaitedThreads } from './awaited.ts';
import { compose, type DemoMessage, mboxEntry, type Person } from './compose.ts';
import { appointment, csv, type DemoFile, pdf, photograph } from './files.ts';
import {
	authorities,
	charterers,
	colleagues,
	desk,
	type DemoList,
	lists,
	office,
	passengers,
	smallerLists,
	suppliers,
	tove,
	workshop
} from './people.ts';
import { Dice } from './random.ts';

/** A message as it stands in an mbox file. */
interface DemoEntry {
	/** When it was received. */
	at: Date;
	/** The address of its sender. */
	from: string;
	entry: Buffer;
}

/** Mail of one folder, as an mbox file. */
export interface DemoFolder {
	path: string;
	messages: DemoEntry[];
	mbox: Buffer;
}

/** A mailbox of the demo. */
export interface DemoMailbox {
	mailbox: string;
	quota: string;
	folders: DemoFolder[];
}

/** What comes into a mailbox on a day. */
export interface DemoDelivery extends Pick<DemoFolder, 'path' | 'mbox'> {
	mailbox: string;
}

const DAY = 86_400_000;
/* Who gets which lists, and how many letters a day. */
const SUBSCRIBERS: { mailbox: string; owner: Person; gets: readonly DemoList[]; letters: number }[] = [
	{ mailbox: 'Harbour office', owner: office, gets: [...lists, ...smallerLists], letters: 2 },
	{ mailbox: 'Tove Marstrand', owner: tove, gets: [...lists.slice(3), ...smallerLists.slice(14)], letters: 0 },
	{ mailbox: 'Workshop', owner: workshop, gets: [...lists.slice(1, 3), ...smallerLists.slice(0, 7)], letters: 0 },
	{ mailbox: 'Passenger desk', owner: desk, gets: lists.slice(0, 1), letters: 3 }
];
const PHOTOS = 42;
const VESSELS = ['MV Skarv', 'MV Terne', 'MV Alke'];

/* Lists whose people somebody at the office has written to. */
const WRITTEN_TO = [...lists, ...smallerLists]
	.filter(({ known }) => known)
	.map(({ from }) => ({ name: `${from.name}, office`, address: `office@${from.address.split('@')[1]}` }));

/* Written for people to read, not to be looked at closely. */
const PARAGRAPHS = [
	'The afternoon sailing is full on the car deck; foot passengers can still be taken.',
	'Please have a look before Thursday, the printer wants the final table then.',
	'The linkspan was stiff again this morning. We greased it, and it behaves, but I would not promise it for the winter.',
	'I have put the signed copy into the binder by the window and kept a scan.',
	'Could you confirm the number of trailers? The ramp limit is twelve tonnes an axle.',
	'We took on 4,200 litres at the east quay. The slip is attached.',
	'If the wind stays in the north-west we will lie over at Vesterøy and sail at first light.',
	'The passenger lift is out of order until the part comes. The crew carries luggage meanwhile.',
	'Nothing urgent, but it ought to be settled before the season starts.',
	'As agreed on the telephone, we waive the rebooking fee this once.'
];

const LETTERS: { person: number; charset: string; subject: string; text: string }[] = [
	{
		person: 1,
		charset: 'iso-8859-1',
		subject: 'Reclamación: equipaje dañado en la travesía',
		text: 'Buenos días:\n\nMi maleta llegó mojada después de la travesía del sábado. Adjunto una fotografía.\n\nUn saludo,\nJosé Ángel Núñez'
	},
	{
		person: 2,
		charset: 'windows-1252',
		subject: 'Réservation annulée – remboursement',
		text: 'Bonjour,\n\nLa traversée du 14 a été annulée à cause du brouillard. Pourriez-vous me rembourser le billet ? Il a coûté 38 €.\n\nÉlodie Lefèvre'
	},
	{
		person: 3,
		charset: 'iso-8859-1',
		subject: 'Beschwerde über die Verspätung',
		text: 'Sehr geehrte Damen und Herren,\n\ndie Fähre hatte über zwei Stunden Verspätung, und niemand wußte etwas. Ich bitte um Erstattung.\n\nMit freundlichen Grüßen\nJürgen Größl'
	},
	{
		person: 4,
		charset: 'koi8-r',
		subject: 'Потерянная сумка',
		text: 'Здравствуйте!\n\nМоя дочь забыла сумку на пароме «Скарв» в воскресенье. Пожалуйста, сообщите, если найдёте.\n\nМария Белова'
	},
	{
		person: 5,
		charset: 'shift_jis',
		subject: '車椅子での乗船について',
		text: 'はじめまして。\n\n来月、車椅子で乗船したいのですが、予約は必要でしょうか。\n\n田中 花子'
	},
	{
		person: 7,
		charset: 'iso-8859-2',
		subject: 'Zgubiony rower',
		text: 'Dzień dobry,\n\nzostawiłem rower na pokładzie. Czy ktoś go znalazł?\n\nPiotr Żółkiewski'
	},
	{
		person: 0,
		charset: 'utf-8',
		subject: 'Klage på støy fra generatoren',
		text: 'Hei,\n\nGeneratoren ved kaia går hele natten. Kan den slås av mellom kl. 23 og 6?\n\nVennlig hilsen\nRagnhild Eide'
	},
	{ person: 6, charset: 'utf-8', subject: 'Thank you', text: 'Thank you for waiting for us last night.\n\nOona' }
];

/** Makes the whole scenario; the same for the same seed and day. */
export class Scenario {
	#dice: Dice;
	#today: number;
	#count = 0;
	#photos = new Map<number, DemoFile>();

	/**
	 * @param seed any whole number
	 * @param today the mail ends on this day
	 */
	constructor(seed: number, today: Date) {
		this.#dice = new Dice(seed);
		this.#today = Date.UTC(today.getUTCFullYear(), today.getUTCMonth(), today.getUTCDate());
	}

	/* The same photographs are attached again and again; each is made when it is first wanted. */
	#photo(): DemoFile {
		const at = this.#dice.between(0, PHOTOS - 1);
		const known = this.#photos.get(at);
		if (known) return known;
		const name = at % 3 ? `deck ${at + 1}.png` : `scan ${at + 1}.png`;
		const made = photograph(new Dice(at), name, 112 + at * 9, 84 + at * 7);
		this.#photos.set(at, made);
		return made;
	}

	/** The mailboxes with their folders, one after the other. */
	*mailboxes(): Generator<DemoMailbox> {
		const minutes = this.#letters(12, 1500, office);
		yield {
			mailbox: 'Harbour office',
			quota: '55 MB',
			folders: [
				this.#folder('Inbox', [
					...this.#letters(120, 900, office),
					...this.#newsletters(lists, 1500, 0.6, office),
					...this.#newsletters(smallerLists, 700, 0.6, office),
					...this.#threads(120, office, 1800, 4),
					...minutes,
					...this.#broken()
				]),
				this.#folder('Sent', this.#sent(office, 330)),
				this.#folder('Drafts', this.#drafts(office, 6)),
				this.#folder('Trash', this.#newsletters(lists.slice(0, 2), 700, 0.35, office)),
				this.#folder('Berth permits', this.#bookings(240)),
				this.#folder('Passenger claims', [...this.#letters(140, 3200, office), ...minutes]),
				this.#folder('Fuel and chandlery', this.#invoices(290, office)),
				...VESSELS.map((vessel) => this.#folder(`Vessel inspections/${vessel}`, this.#inspections(vessel, 64, office))),
				this.#folder('Newsletters', this.#newsletters(lists, 3280, 0.2, office))
			]
		};
		yield {
			mailbox: 'Tove Marstrand',
			quota: '30 MB',
			folders: [
				this.#folder('Inbox', [
					...this.#threads(150, tove, 2200, 6),
					...this.#newsletters(lists.slice(3), 1800, 0.6, tove),
					...this.#newsletters(smallerLists.slice(14), 400, 0.6, tove),
					...this.#thanks(40)
				]),
				this.#folder('Sent', this.#sent(tove, 240)),
				this.#folder('Crew rosters', this.#rosters(280)),
				this.#folder('Crew certificates', this.#certificates(70)),
				this.#folder('Private', this.#thanks(24))
			]
		};
		yield {
			mailbox: 'Workshop',
			quota: '60 MB',
			folders: [
				this.#folder('Inbox', [
					...this.#threads(190, workshop, 2600, 5),
					...this.#newsletters(lists.slice(1, 3), 3280, 0.3, workshop),
					...this.#newsletters(smallerLists.slice(0, 7), 400, 0.6, workshop),
					...this.#resent(this.#invoices(30, workshop))
				]),
				this.#folder('Sent', this.#sent(workshop, 150)),
				this.#folder('Invoices', this.#invoices(260, workshop)),
				...VESSELS.map((vessel) =>
					this.#folder(`Yard and inspections/${vessel}`, this.#inspections(vessel, 48, workshop))
				)
			]
		};
		yield {
			mailbox: 'Passenger desk',
			quota: '40 MB',
			folders: [
				this.#folder('Inbox', [
					...this.#letters(560, 3280, desk),
					...this.#threads(90, desk, 1500, 3),
					...this.#newsletters(lists.slice(0, 1), 2000, 0.6, desk),
					...awaitedThreads(new Date(this.#today))
				]),
				this.#folder('Sent', [...this.#sent(desk, 260), ...awaitedAnswers(new Date(this.#today))]),
				this.#folder('Charter contracts', this.#charters(170)),
				this.#folder('Lost property', this.#letters(90, 2600, desk)),
				this.#folder('Trash', this.#newsletters(lists.slice(1, 2), 400, 0.5, desk))
			]
		};
	}

	#folder(path: string, messages: (DemoMessage | Buffer)[]): DemoFolder {
		const ordered = messages
			.map((message): DemoEntry => {
				const about = 'length' in message ? { from: office, at: new Date(0) } : message;
				const bytes = 'length' in message ? message : compose(message);
				return { at: about.at, from: about.from.address, entry: mboxEntry(bytes, about) };
			})
			.sort((a, b) => a.at.getTime() - b.at.getTime());
		return { path, messages: ordered, mbox: Buffer.concat(ordered.map(({ entry }) => entry)) };
	}

	/* More of it in later years, as mailboxes are. */
	#daysAgo(oldest: number): Date {
		const days = Math.floor(oldest * this.#dice.next() ** 1.4) + 1;
		return new Date(this.#today - days * DAY + this.#dice.between(6 * 3600, 20 * 3600) * 1000);
	}

	#id(): string {
		return `${(++this.#count).toString(36)}.${this.#dice.between(1e6, 9e6).toString(36)}@mail.skerryline.example`;
	}

	#prose(paragraphs: number): string {
		return Array.from({ length: paragraphs }, () => this.#dice.pick(PARAGRAPHS)).join('\n\n');
	}

	#message(from: Person, to: Person[], subject: string, at: Date, rest: Partial<DemoMessage> = {}): DemoMessage {
		return {
			from,
			to,
			subject,
			at,
			id: this.#id(),
			text: this.#prose(this.#dice.between(1, 4)),
			seen: this.#dice.chance(0.85),
			flagged: this.#dice.chance(0.03),
			...rest
		};
	}

	#letters(count: number, oldest: number, to: Person): DemoMessage[] {
		return Array.from({ length: count }, () => {
			const letter = this.#dice.pick(LETTERS);
			const from = passengers[letter.person] as Person;
			return this.#message(from, [to], letter.subject, this.#daysAgo(oldest), {
				text: letter.text,
				charset: letter.charset,
				answered: this.#dice.chance(0.6),
				files: this.#dice.chance(0.3) ? [this.#photo()] : []
			});
		});
	}

	#newsletters(chosen: readonly DemoList[], oldest: number, density: number, to: Person): DemoMessage[] {
		return chosen.flatMap((list) => {
			const messages: DemoMessage[] = [];
			for (let day = this.#dice.between(1, list.every); day < oldest; day += list.every)
				if (this.#dice.chance(density)) messages.push(this.#issue(list, to, day));
			return messages;
		});
	}

	/* One issue of a list, so many days ago; how it can be left as its header and footer say it. */
	#issue(list: DemoList, to: Person, day: number): DemoMessage {
		const topic = this.#dice.pick(list.topics);
		const link = `https://${list.listId}/leave/${Buffer.from(to.address).toString('base64url')}`;
		const mail = `mailto:leave@${list.listId}?subject=leave`;
		const at = new Date(this.#today - day * DAY + this.#dice.between(5 * 3600, 9 * 3600) * 1000);
		const addresses = [
			...(list.offers.includes('mail') ? [mail] : []),
			...(list.offers.includes('link') ? [link] : [])
		];
		const clicks = list.offers.includes('one-click');
		const hash = () => Buffer.from(Array.from({ length: 32 }, () => this.#dice.between(0, 255))).toString('base64');
		const domain = list.from.address.split('@')[1];
		const headers = list.offers.includes('footer')
			? []
			: [
					`List-Id: ${list.title.replace(/[^\w ]/g, '')} <${list.listId}>`,
					`List-Unsubscribe: ${addresses.map((address) => `<${address}>`).join(', ')}`,
					...(clicks
						? [
								'List-Unsubscribe-Post: List-Unsubscribe=One-Click',
								`DKIM-Signature: v=1; a=rsa-sha256; c=relaxed/relaxed; d=${domain}; s=k1;\r\n\th=from:to:subject:date:list-unsubscribe:list-unsubscribe-post;\r\n\tbh=${hash()}; b=${hash()}`
							]
						: []),
					'Precedence: bulk'
				];
		return this.#message(list.from, [to], `${list.title}: ${topic}`, at, {
			text: `${topic}\n\n${this.#prose(3)}\n\n-- \nYou get this because you asked for ${list.title}.\n${list.footer} ${link}`,
			html: `<html><body style="font-family: Georgia"><h1 style="color: #24506b">${topic}</h1><img src="https://pictures.${list.listId}/banner.png" alt="Banner" width="600"><p>${this.#prose(2)}</p><table border="1"><tr><td>${this.#prose(1)}</td><td>${this.#prose(1)}</td></tr></table><p>${list.footer} <a href="${link}">here</a></p></body></html>`,
			seen: this.#dice.chance(0.2),
			header: headers
		});
	}

	/**
	 * What the post office brings on the day before the one that the scenario ends on.
	 *
	 * @param hasLeft whether a list has let an address go
	 */
	*post(hasLeft: (listId: string, address: string) => boolean): Generator<DemoDelivery> {
		for (const { mailbox, owner, gets, letters } of SUBSCRIBERS) {
			const day = Math.floor(this.#today / DAY);
			const due = gets.filter((list, at) => (day + at) % list.every === 0 && !hasLeft(list.listId, owner.address));
			const messages = [
				...due.map((list) => this.#issue(list, owner, 1)),
				...this.#letters(letters, 1, owner),
				...this.#threads(1, owner, 1, 2)
			].map((message) => ({ ...message, seen: false, answered: false, flagged: false }));
			yield { mailbox, path: 'Inbox', mbox: this.#folder('Inbox', messages).mbox };
		}
	}

	#threads(count: number, owner: Person, oldest: number, longest: number): DemoMessage[] {
		return Array.from({ length: count }, () => this.#thread(owner, this.#daysAgo(oldest), longest)).flat();
	}

	/* Each answer quotes all that was said before. */
	#thread(owner: Person, start: Date, longest: number): DemoMessage[] {
		const turns = this.#dice.between(1, longest);
		const other = this.#dice.pick([...colleagues, ...suppliers.slice(3, 5), ...authorities]);
		const subject = `${this.#dice.pick(['Ramp limit', 'Winter timetable', 'Lift on the car deck', 'Quay light', 'Life raft service', 'Season tickets', 'Charter 12 June'])} ${this.#dice.pick(VESSELS)}`;
		const messages: DemoMessage[] = [];
		let at = start;
		for (let turn = 0; turn < turns; turn++) {
			const last = messages.at(-1);
			const quoted = last
				? `\n\nOn ${last.at.toISOString().slice(0, 10)} ${last.from.name} wrote:\n${last.text
						.split('\n')
						.map((line) => `> ${line}`)
						.join('\n')}`
				: '';
			messages.push(
				this.#message(turn % 2 ? this.#dice.pick(colleagues) : other, [owner], `${turn ? 'Re: ' : ''}${subject}`, at, {
					text: `${this.#prose(this.#dice.between(1, 3))}${quoted}`,
					references: messages.map(({ id }) => id),
					answered: this.#dice.chance(0.5),
					files: this.#dice.chance(0.16) ? [this.#photo()] : []
				})
			);
			at = new Date(at.getTime() + this.#dice.between(1, 50) * 3_600_000);
			if (at.getTime() > this.#today) break;
		}
		return messages;
	}

	#sent(owner: Person, count: number): DemoMessage[] {
		return Array.from({ length: count }, () =>
			this.#message(
				owner,
				[this.#dice.pick([...passengers, ...suppliers, ...colleagues, ...WRITTEN_TO])],
				`Re: ${this.#dice.pick(['your booking', 'your letter', 'Invoice', 'Life raft service', 'Season tickets'])}`,
				this.#daysAgo(1800),
				{
					sent: true,
					seen: true,
					files: this.#dice.chance(0.12) ? [this.#photo()] : []
				}
			)
		);
	}

	#drafts(owner: Person, count: number): DemoMessage[] {
		return Array.from({ length: count }, (_, at) =>
			this.#message(owner, [this.#dice.pick(passengers)], at % 2 ? '' : 'Answer to your letter', this.#daysAgo(300), {
				sent: true,
				text: at % 2 ? '' : this.#prose(1)
			})
		);
	}

	#bookings(count: number): DemoMessage[] {
		return Array.from({ length: count }, (_, at) => {
			const when = this.#daysAgo(1500);
			const vessel = this.#dice.pick(VESSELS);
			const harbourMaster = authorities[1] as Person;
			return this.#message(harbourMaster, [office], `Berth booking ${2000 + at}: ${vessel}`, when, {
				text: `Berth ${this.#dice.between(1, 9)} is booked for ${vessel}.\n\n${this.#prose(1)}`,
				files: [appointment(`berth ${2000 + at}.ics`, `Berth for ${vessel}`, new Date(when.getTime() + 9 * DAY))]
			});
		});
	}

	#invoices(count: number, to: Person): DemoMessage[] {
		return Array.from({ length: count }, (_, at) => {
			const from = this.#dice.pick(suppliers);
			const number = `R-${10_400 + at}`;
			const amount = this.#dice.between(90, 24_000);
			return this.#message(from, [to], `Invoice ${number}`, this.#daysAgo(3200), {
				cc: this.#dice.chance(0.3) ? [tove] : [],
				text: `Invoice ${number} for ${amount} is attached. It is due in 30 days.`,
				files: [
					pdf(`Invoice ${number}.pdf`, [
						from.name,
						`Invoice ${number}`,
						`Amount due: ${amount}`,
						'Skerry Line, Harbour Office'
					]),
					...(this.#dice.chance(0.35) ? [this.#photo()] : [])
				]
			});
		});
	}

	#inspections(vessel: string, count: number, to: Person): DemoMessage[] {
		return Array.from({ length: count }, (_, at) =>
			this.#message(authorities[0] as Person, [to], `Inspection ${vessel}, item ${at + 1}`, this.#daysAgo(3300), {
				text: `Findings of the inspection of ${vessel} are attached.\n\n${this.#prose(2)}`,
				files: [
					pdf(`Findings ${at + 1} – ${vessel}.pdf`, [
						`Inspection of ${vessel}`,
						`Item ${at + 1}`,
						'To be remedied before the next sailing'
					]),
					...(this.#dice.chance(0.55) ? [this.#photo(), this.#photo()] : [])
				]
			})
		);
	}

	/* The same message twice, by two ways: other transport headers, the same Message-ID and content. */
	#resent(messages: DemoMessage[]): DemoMessage[] {
		return messages.flatMap((message) => [
			message,
			{ ...message, header: [...(message.header ?? []), 'Delivered-To: workshop@skerryline.example'] }
		]);
	}

	#charters(count: number): DemoMessage[] {
		return Array.from({ length: count }, (_, at) => {
			const charterer = this.#dice.pick(charterers);
			const vessel = this.#dice.pick(VESSELS);
			const number = `C-${300 + at}`;
			return this.#message(charterer, [desk], `Charter ${number}, ${vessel}`, this.#daysAgo(3280), {
				text: `Please find the contract for the charter of ${vessel} attached, signed on our side.\n\n${this.#prose(2)}`,
				flagged: this.#dice.chance(0.1),
				answered: this.#dice.chance(0.7),
				files: [
					pdf(`Charter contract ${number}.pdf`, [
						charterer.name,
						`Charter of ${vessel}`,
						`Contract ${number}`,
						`Fee: ${this.#dice.between(900, 14_000)}`,
						'Payable fourteen days before sailing'
					]),
					...(this.#dice.chance(0.4) ? [this.#photo()] : [])
				]
			});
		});
	}

	#rosters(count: number): DemoMessage[] {
		return Array.from({ length: count }, (_, at) => {
			const rows = colleagues.map(({ name }) => [
				name,
				this.#dice.pick(VESSELS),
				this.#dice.pick(['early', 'late', 'off', 'night'])
			]);
			return this.#message(
				this.#dice.pick(colleagues),
				[tove],
				`Crew roster week ${(at % 52) + 1}`,
				this.#daysAgo(2400),
				{
					files: [
						csv(`roster week ${(at % 52) + 1}.csv`, [['Name', 'Vessel', 'Watch'], ...rows]),
						...(this.#dice.chance(0.25) ? [this.#photo()] : [])
					]
				}
			);
		});
	}

	#certificates(count: number): DemoMessage[] {
		return Array.from({ length: count }, (_, at) => {
			const holder = this.#dice.pick(colleagues);
			const of = this.#dice.pick([
				'Basic safety training',
				'Master, near-coastal',
				'Medical fitness',
				'Radio operator'
			]);
			return this.#message(
				authorities[0] as Person,
				[tove],
				`${of}: certificate of ${holder.name}`,
				this.#daysAgo(3280),
				{
					text: `The certificate of ${holder.name} is attached. It is valid for five years.`,
					files: [pdf(`certificate ${at + 1}.pdf`, [of, holder.name, `Number ${7_400 + at}`, 'Valid for five years'])]
				}
			);
		});
	}

	#thanks(count: number): DemoMessage[] {
		return Array.from({ length: count }, () =>
			this.#message(
				this.#dice.pick(colleagues),
				[tove],
				this.#dice.pick(['Thanks!', 'Takk for hjelpen', 'Danke', 'Kiitos']),
				this.#daysAgo(1600),
				{ text: 'Thank you!' }
			)
		);
	}

	/* What comes in damaged in real life. */
	#broken(): Buffer[] {
		const raw = (text: string) => Buffer.from(text.replaceAll('\n', '\r\n'), 'latin1');
		return [
			raw(
				'From: Old Terminal <terminal@berths.example>\nTo: office@skerryline.example\nSubject: Clock was wrong\nDate: Mon, 14 Mar 102 09:12:00 +0000\nMessage-ID: <clock1@berths.example>\n\nThe year in this message cannot be true.\n'
			),
			raw(
				'From: Ticket Machine 4 <tm4@berths.example>\nTo: office@skerryline.example\nSubject: Paper low\nDate: Tue, 05 Jan 2038 03:14:07 +0000\nMessage-ID: <clock2@berths.example>\n\nA date in the future.\n'
			),
			raw('Subject: no sender and no date\n\nSomebody forgot both.\n'),
			raw(
				'From: Scanner <scanner@skerryline.example>\nTo: office@skerryline.example\nSubject: cut off in the middle\nDate: Mon, 06 Oct 2025 10:00:00 +0000\nMIME-Version: 1.0\nContent-Type: multipart/mixed; boundary="cut"\n\n--cut\nContent-Type: text/plain; charset=x-unheard-of\n\nThe scan follows.\n--cut\nContent-Type: image/png; name="scan.png"\nContent-Transfer-Encoding: base64\n\niVBORw0KGgoAAAANSUhEUgAA'
			),
			raw(
				'From: Caf\xe9 Molo <bonjour@cafemolo.example>\nTo: office@skerryline.example\nSubject: D\xe9jeuner \xe0 bord\nDate: Wed, 03 Sep 2025 11:30:00 +0200\n\nUn en-t\xeate sans jeu de caract\xe8res.\n'
			),
			raw('This file was never a message, but somebody saved it among the mail.\n')
		];
	}
}
