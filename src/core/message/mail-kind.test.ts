import { describe, expect, it } from 'vitest';
import { crlfBytes } from '../testing/bytes.ts';
import { eventEnd, isThanks, MAIL_KINDS, traitBit, type Trait } from './mail-kind.ts';
import { summarise } from './summary.ts';

const read = async (header: string, body = 'Words.') =>
	summarise(
		crlfBytes(
			`From: ${/^From:/m.test(header) ? '' : 'Tove <tove@skerryline.example>\n'}${header}\n\n${body}\n`.replace(
				/^From: (From:)/m,
				'$1'
			)
		)
	);

describe('the kind of mail, by its header first', () => {
	it.each<[(typeof MAIL_KINDS)[number], string]>([
		['person', 'Subject: Lunch'],
		['person', 'Subject: Your invoice from last week'],
		['list', 'List-Id: <crew.example>\nList-Post: <mailto:crew@crew.example>\nSubject: Hello'],
		['list', 'List-Id: <crew.example>\nSubject: Hello'],
		['list', 'Precedence: list\nSubject: Hello'],
		// a discussion that says how to unsubscribe, as groups do (common practice)
		[
			'list',
			'Mailing-List: list crew@g.example; contact crew-owner@g.example\nList-Unsubscribe: <mailto:crew-unsubscribe@g.example>\nSubject: Hello'
		],
		[
			'list',
			'Mailing-List: contact crew-help@l.example; run by ezmlm\nList-Unsubscribe: <mailto:crew-unsubscribe@l.example>\nSubject: Hello'
		],
		['list', 'X-BeenThere: crew@l.example\nList-Unsubscribe: <https://l.example/u>\nSubject: Hello'],
		[
			'advertisement',
			'X-BeenThere: news@l.example\nList-Post: NO\nList-Unsubscribe: <https://l.example/u>\nSubject: News'
		],
		['advertisement', 'List-Unsubscribe: <https://x.example/u>\nSubject: Sale'],
		[
			'advertisement',
			'List-Id: <n.example>\nList-Post: NO (posting not allowed)\nList-Unsubscribe: <mailto:u@x.example>\nSubject: News'
		],
		['advertisement', 'Precedence: bulk\nSubject: Sale'],
		['notice', 'From: no-reply@shop.example\nSubject: Your order 4711 has been dispatched'],
		['notice', 'From: bookings@x.example\nList-Unsubscribe: <https://x.example>\nSubject: Booking confirmation'],
		['notice', 'From: noreply@x.example\nSubject: Ihre Rechnung Nr. 12'],
		['notice', 'From: noreply@x.example\nSubject: Votre facture du mois'],
		['travel', 'From: noreply@x.example\nSubject: Your boarding pass to Torsay'],
		[
			'travel',
			'From: bookings@x.example\nList-Unsubscribe: <https://x.example>\nSubject: Booking confirmation: Hotel Anker'
		],
		['travel', 'From: noreply@x.example\nSubject: Ihre Bordkarte'],
		['person', 'Subject: Our flight on Friday'],
		['automatic', 'Auto-Submitted: auto-replied\nSubject: Out of office'],
		['automatic', 'Auto-Submitted: auto-generated\nSubject: Backup done'],
		['automatic', 'Return-Path: <>\nSubject: Undelivered'],
		['automatic', 'From: no-reply@x.example\nSubject: Password changed'],
		...[
			'Mail delivery failed: returning message to sender',
			'Delivery Status Notification (Failure)',
			'Delivery Status Notification (Delay)',
			'Undelivered Mail Returned to Sender',
			'Undeliverable: Crew list',
			'Returned mail: see transcript for details',
			'failure notice',
			'Warning: could not send message for past 4 hours',
			'Warning: message delivery delayed',
			'Automatic reply: Crew list',
			'Out of Office: Crew list',
			'Out of the office until Monday',
			'Automatische Antwort: Fahrplan',
			'Abwesenheitsnotiz: Fahrplan',
			'Unzustellbar: Fahrplan',
			'Réponse automatique : Horaires',
			'Absence du bureau',
			'Non remis : Horaires',
			'Respuesta automática: Horarios',
			'Fuera de la oficina',
			'No se ha entregado: Horarios',
			'Risposta automatica: Orari',
			'Fuori ufficio',
			'Mancata consegna: Orari',
			'Automatisch antwoord: Dienstregeling',
			'Afwezig tot maandag',
			'Onbestelbaar: Dienstregeling',
			'Resposta automática: Horários',
			'Não entregue: Horários',
			'Automatiskt svar: Tidtabell',
			'Autosvar: Rutetabell',
			'Fravær: Rutetabell',
			'Frånvaro'
		].map((subject): [(typeof MAIL_KINDS)[number], string] => ['automatic', `Subject: ${subject}`]),
		['automatic', 'From: MAILER-DAEMON@mx.example\nSubject: Message status - undeliverable'],
		['automatic', 'From: postmaster@mx.example\nSubject: Your message on delivery'],
		// a parcel is one, and people write about all of it
		['notice', 'From: noreply@shop.example\nSubject: Delivery of your parcel tomorrow'],
		['person', 'Subject: Delivery of the new ramp'],
		['person', 'Subject: Read: the plan of the quay'],
		['person', 'Subject: Re: Out of Office: Crew list'],
		['person', 'Subject: The delivery failed on Monday'],
		['list', 'List-Post: <mailto:crew@l.example>\nSubject: Out of office rules']
	])('%s: %s', async (kind, header) => {
		expect((await read(header))?.mailKind).toBe(kind);
	});
});

describe('traits', () => {
	it.each<[Trait | undefined, string, string]>([
		['auto-reply', 'Auto-Submitted: auto-replied', 'I am away.'],
		['auto-reply', 'Precedence: auto_reply', 'I am away.'],
		[
			'delivery-report',
			'Content-Type: multipart/report; report-type=delivery-status; boundary=b',
			'--b\n\nNot delivered\n--b--'
		],
		[
			'read-report',
			'Content-Type: multipart/report; report-type=disposition-notification; boundary=b',
			'--b\n\nRead\n--b--'
		],
		['calendar-answer', 'Content-Type: text/calendar; method=REPLY', 'BEGIN:VCALENDAR'],
		[undefined, 'Content-Type: text/calendar; method=REQUEST', 'BEGIN:VCALENDAR'],
		['thanks', 'Subject: Re: Ramp', 'Thank you!'],
		[undefined, 'Subject: Ramp', 'Thank you, but the price is 400 and I need an answer by Friday about the ramp limit.']
	])('%s: %s', async (trait, header, body) => {
		expect((await read(header, body))?.traits).toBe(trait ? traitBit(trait) : 0);
	});

	it.each([
		['Thanks!', '', true],
		['Many thanks for this', '', true],
		['Noted, thank you.', '', true],
		['Merci beaucoup', '', true],
		['Vielen Dank', '', true],
		['Thanks\n\nTove', 'Tove Aas', true],
		['Thanks!\n\n-- \nTove Aas\nSkerryline', '', true],
		['Thanks. Can you send the table?', '', false],
		['Thanks\n\nThe ramp is broken', '', false],
		['Thanks\nsee below\nand above', '', false],
		['The ramp works. Thanks', '', false],
		['OK', '', true],
		['', '', false]
	])('%j is thanks and no more: %s %s', (text, name, expected) => {
		expect(isThanks(text, name)).toBe(expected);
	});
});

describe('dates that end mail', () => {
	it.each([
		['Expires: Thu, 05 Mar 2020 10:00:00 +0000', '2020-03-05T10:00:00Z'],
		['Expiry-Date: Thu, 05 Mar 2020 10:00:00 +0000', '2020-03-05T10:00:00Z'],
		['Subject: none', undefined]
	])('%s (RFC 4021, RFC 2156)', async (header, expected) => {
		expect((await read(header))?.expiresAt).toBe(expected && Date.parse(expected) / 1000);
	});

	it.each([
		['BEGIN:VEVENT\r\nDTSTART:20200304T090000Z\r\nDTEND:20200305T100000Z\r\nEND:VEVENT', '2020-03-05'],
		['BEGIN:VEVENT\r\nDTSTART;VALUE=DATE:20200304\r\nEND:VEVENT', '2020-03-04'],
		['BEGIN:VEVENT\r\nDTSTART;TZID=Europe/Oslo:2020\r\n 0304T090000\r\nEND:VEVENT', '2020-03-04'],
		['BEGIN:VEVENT\r\nDTSTART:20200304T090000Z\r\nRRULE:FREQ=DAILY\r\nEND:VEVENT', undefined],
		['BEGIN:VTIMEZONE\r\nDTSTART:19700101T000000\r\nEND:VTIMEZONE', undefined],
		['', undefined]
	])('an event ends: %j (RFC 5545)', (calendar, expected) => {
		expect(eventEnd(calendar)).toBe(expected);
	});
});
