import { isClosedToPosts, postingAddress } from '../lists/posting-address.ts';
import { fieldValue, type Header } from './header.ts';
import { type Part, walk } from './structure.ts';

/** Kinds of mail, in the order of the stored numbers. */
export const MAIL_KINDS = ['person', 'list', 'advertisement', 'notice', 'automatic', 'travel'] as const;
export type MailKind = (typeof MAIL_KINDS)[number];

/** Each in words. */
export const MAIL_KIND_NAMES: Record<MailKind, string> = {
	person: 'person to person',
	list: 'mailing list',
	advertisement: 'newsletter or advertisement',
	notice: 'notice of an order, invoice or delivery',
	automatic: 'automatic notice',
	travel: 'ticket or booking of a journey'
};

/** Traits of a message, in the order of the stored bits. */
const TRAITS = ['delivery-report', 'read-report', 'auto-reply', 'calendar-answer', 'thanks'] as const;
export type Trait = (typeof TRAITS)[number];

/** The bit under which a trait is stored. */
export function traitBit(trait: Trait): number {
	return 1 << TRAITS.indexOf(trait);
}

/* Words that identify a notice, in the languages of standards.md. Data: one line a language. */
const NOTICE_WORDS = [
	/\b(orders?|booking|reservation|invoice|receipt|delivery|shipment|dispatch(ed)?|payment|statement|confirmation)\b/i,
	/\b(bestellung|buchung|rechnung|lieferung|zahlung|quittung|bestätigung)/i,
	/\b(commande|réservation|facture|livraison|paiement|reçu|confirmation)\b/i,
	/\b(pedido|reserva|factura|entrega|pago|recibo|confirmación)\b/i
];
/*
 * Subjects of reports on delivery and of automatic answers, where a header does not say so: the words of the programs that
 * send them, at the beginning, a language a line (common practice; RFC 3834 asks for a field instead).
 */
const AUTOMATIC_SUBJECTS = [
	/^(\[?auto(matic)?[ -]?(reply|response|answer)\b|autoreply|out of (the )?office\b|i am out of (the )?office|away from (my|the) (office|desk)|on vacation\b|vacation (reply|message))/i,
	/^((warning: )?(mail|message) delivery (failed|failure|delayed|problem|system)|delivery (status notification|failure|failed|delayed|report|has been delayed)|undeliver(ed|able)\b|returned mail\b|failure notice\b|mail system error|warning: could not send|could not (be )?deliver|non[- ]?delivery|delayed mail)/i,
	/^(automatische (antwort|abwesenheitsnotiz)|abwesenheit(snotiz|smeldung)?\b|nicht im (büro|haus)\b|unzustellbar|zustellung (fehlgeschlagen|verzögert)|nicht zugestellt)/i,
	/^(réponse automatique|absen(t|ce) du bureau|message d.absence|non remis|échec de (la )?(remise|distribution)|remise (retardée|différée))/i,
	/^(respuesta automática|fuera de (la )?oficina|no (se )?(ha )?entregad[oa]|error en la entrega|entrega (retrasada|fallida))/i,
	/^(risposta automatica|fuori (sede|ufficio)|mancata (consegna|recapito)|consegna (ritardata|fallita)|non recapitabile)/i,
	/^(automatisch antwoord|afwezig(heid)?\b|niet op kantoor|onbestelbaar|niet (bezorgd|afgeleverd)|bezorging (mislukt|vertraagd))/i,
	/^(resposta automática|ausência (do escritório|temporária)|fora do escritório|não entregue|falha na entrega|entrega (adiada|atrasada))/i,
	/^(autosvar|automatiskt? svar|frånvaro|fravær|ikke på kontoret|kan ikke leveres|kunde inte levereras|ej levererat|levering (mislyktes|mislykkedes|forsinket))/i
];
/* Those who send reports on delivery (RFC 5321 section 4.5.5, RFC 2142). */
const REPORTS_DELIVERY = /^(mailer-daemon|postmaster|mail-?daemon|mdaemon)@/i;
/* Words of a journey in a subject, in the same languages. */
const TRAVEL_WORDS = [
	/\b(itinerary|boarding pass(es)?|flights?|e-?tickets?|(train|ferry|bus|plane) tickets?|hotel|check-in|your (trip|journey|travel))\b/i,
	/\b(reiseplan|reisebestätigung|bordkarte|flug|fahrkarte|zugticket|hotel)/i,
	/\b(carte d.embarquement|billet (de train|d.avion)|votre (vol|voyage)|hôtel)\b/i,
	/\b(tarjeta de embarque|billete de (tren|avión)|su (vuelo|viaje)|hotel)\b/i
];
/* Addresses behind which no person answers (common practice). */
const NOBODY =
	/^(no-?_?reply|do-?not-?reply|noreply|notifications?|notices?|bookings?|orders?|invoices?|billing|accounts?|payments?|mailer-daemon|postmaster)\b/i;

const reportType = (root: Part): string => {
	for (const part of walk(root))
		if (part.type === 'multipart/report') return (part.parameters['report-type'] ?? '').toLowerCase();
	return '';
};

function calendarMethod(root: Part): string {
	for (const part of walk(root)) if (part.type === 'text/calendar') return (part.parameters.method ?? '').toUpperCase();
	return '';
}

const THANKS =
	/^\W*(many |much )?(thanks?|thank you|cheers|ta|much appreciated|noted|got it|will do|ok(ay)?|received|danke|vielen dank|merci( beaucoup)?|(muchas )?gracias)\b[^\n?]{0,50}$/i;
/* The line of dashes above a signature (RFC 3676 section 4.3), and a name at the end. */
const SIGNATURE = /\n-- ?\n[\s\S]*$/;

/** Whether the own text is a single line of thanks or acknowledgement, the sender's name aside (common practice). */
export function isThanks(ownText: string, senderName: string): boolean {
	const start = (ownText.trimStart().split('\n', 1)[0] as string).trimEnd();
	if (start.length > 60 || !THANKS.test(start)) return false;
	const lines = ownText
		.replace(SIGNATURE, '')
		.split('\n')
		.map((line) => line.trim())
		.filter(Boolean);
	const [first, second, ...more] = lines;
	const isName = (line: string) =>
		senderName !== '' &&
		senderName.toLowerCase().includes(
			line
				.toLowerCase()
				.replace(/[^\p{L} ]/gu, '')
				.trim()
		);
	return first !== undefined && more.length === 0 && (second === undefined || isName(second));
}

/**
 * Traits of a message by its header and structure (RFC 3834, RFC 3464, RFC 8098, RFC 5546).
 *
 * @param ownText what the sender wrote, as plain text
 * @param ownOfHtml the own text of its HTML, called only if it matters; undefined: there is no HTML
 */
export function readTraits(
	root: Part,
	ownText: string,
	senderName: string,
	ownOfHtml: () => string | undefined
): number {
	const { header } = root;
	const submitted = (fieldValue(header, 'auto-submitted') ?? '').trim().toLowerCase();
	const report = reportType(root);
	const has: Record<Trait, boolean> = {
		'delivery-report': report === 'delivery-status',
		'read-report': report === 'disposition-notification',
		'auto-reply':
			submitted.startsWith('auto-replied') ||
			/^auto_reply$/i.test((fieldValue(header, 'precedence') ?? '').trim()) ||
			fieldValue(header, 'x-autoreply') !== undefined,
		'calendar-answer': calendarMethod(root) === 'REPLY',
		thanks: isThanks(ownText, senderName) && isThanks(ownOfHtml() ?? ownText, senderName)
	};
	return TRAITS.reduce((bits, trait) => (has[trait] ? bits | traitBit(trait) : bits), 0);
}

/** Whether a notice is of a journey, by its subject. */
export function isOfJourney(subject: string): boolean {
	return TRAVEL_WORDS.some((words) => words.test(subject));
}

/**
 * The kind of a message: by header fields first (RFC 2919, RFC 2369, RFC 3834, Precedence by common practice), then
 * by its sender and subject.
 */
export function mailKind(root: Part, from: string, subject: string): MailKind {
	const { header } = root;
	const has = (name: string) => fieldValue(header, name) !== undefined;
	const precedence = (fieldValue(header, 'precedence') ?? '').trim().toLowerCase();
	const submitted = (fieldValue(header, 'auto-submitted') ?? 'no').trim().toLowerCase();
	const isJourney = isOfJourney(subject);
	const automatic = AUTOMATIC_SUBJECTS.some((words) => words.test(subject));
	const isNotice = isJourney || NOTICE_WORDS.some((words) => words.test(subject));
	const notice = isJourney ? 'travel' : 'notice';
	const isNobody = NOBODY.test(from);
	if (
		reportType(root) !== '' ||
		submitted.startsWith('auto-replied') ||
		/^<\s*>$/.test(returnPath(header)) ||
		(automatic && !isToManyByWriting(header))
	)
		return 'automatic';
	// a discussion stays one, where it also says how to unsubscribe
	if (isToManyByWriting(header)) return 'list';
	if (has('list-unsubscribe')) return isNotice && isNobody ? notice : 'advertisement';
	if (has('list-id') || precedence === 'list') return 'list';
	if (REPORTS_DELIVERY.test(from)) return 'automatic';
	if (isNotice && isNobody) return notice;
	if (precedence === 'bulk' || precedence === 'junk') return 'advertisement';
	return submitted !== 'no' || isNobody ? 'automatic' : 'person';
}

/* Whether people write to a list: it has an address for that, and does not forbid it. */
const isToManyByWriting = (header: Header): boolean => !isClosedToPosts(header) && postingAddress(header) !== '';

const returnPath = (header: Header): string => (fieldValue(header, 'return-path') ?? '').trim();

/* The first event of a calendar stands well within this limit. */
const LONGEST_CALENDAR = 200_000;

/**
 * The last day of an event in the message, by its calendar (RFC 5545 DTEND, else DTSTART); undefined: none.
 *
 * @param calendar the decoded text of the text/calendar part
 */
export function eventEnd(calendar: string): string | undefined {
	const unfolded = calendar.slice(0, LONGEST_CALENDAR).replace(/\r?\n[ \t]/g, '');
	const start = unfolded.indexOf('BEGIN:VEVENT');
	const end = unfolded.indexOf('END:VEVENT', start);
	if (start === -1 || end === -1) return undefined;
	const event = unfolded.slice(start, end);
	// a recurring event has no end in a single line
	if (/^RRULE/m.test(event)) return undefined;
	const found =
		/^DTEND[^:\n]*:(\d{4})(\d{2})(\d{2})/m.exec(event) ?? /^DTSTART[^:\n]*:(\d{4})(\d{2})(\d{2})/m.exec(event);
	return found ? `${found[1]}-${found[2]}-${found[3]}` : undefined;
}
