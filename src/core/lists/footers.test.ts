import { describe, expect, it } from 'vitest';
import { findOffer } from './offers.ts';

/*
 * Footers, each with the target that its words belong to; written by the patterns of real ones, and labelled by hand. U is the
 * right one; A and B belong to somebody or something else.
 */
const U = 'https://lists.example/u/7';
const M = 'deck-leave@lists.example';
const A = 'https://other.example/a';
const B = 'owner@lists.example';
const TEXTS: readonly [string, string][] = [
	// the link stands before its words, and another address behind them
	[`--\nDeck Users' Group: deck@lists.example\n${U} for (un)subscription information.\nList maintainer: ${B}`, U],
	[`${U} to unsubscribe. Questions: ${B}`, U],
	[`Visit ${U} to leave this list.\nThe owner is ${B}.`, U],
	[`${U}\nUnsubscribe or change your address`, U],
	[`Write to ${M} to unsubscribe, or to ${B} with questions.`, M],
	// the words come first
	[`To unsubscribe from this group, send an email to:\n${M}\nYour use is subject to ${A}`, M],
	[`To stop receiving this and other\nmessages, or to change your preferences, please go to your user page.\n${U}`, U],
	[`To be removed from this list, use this link:\n${U}\nTo receive future messages in HTML, use this link:\n${A}`, U],
	[`Subscribe? Mail ${B}\nUnsubscribe? Mail ${M}\nTips, news and gossip to tips@lists.example`, M],
	[`Unsubscribe by sending "unsubscribe deck" to ${M}`, M],
	[`Unsubscribe: ${U} | Feedback: ${B}`, U],
	[`Feedback: ${B} | Unsubscribe: ${U}`, U],
	[`Home: ${A} Unsubscribe: ${U} Contact: ${B}`, U],
	[`To Unsubscribe: <${M}>\nSponsor & Host: Lines <${A}>`, M],
	[`You are subscribed as: crew@skerryline.example\nTo unsubscribe send a blank email to ${M}`, M],
	[`To unsubscribe from this list, or to change your subscription options, follow the link below:\n${U}`, U],
	[`If you no longer wish to receive these\noffers, please visit\n${U}\nor write to us.`, U],
	[`You can opt out at any time.\n${U}`, U],
	[`Opt-out: ${U}\nReport abuse: ${A}`, U],
	[`This is the deck list. Archive: ${A}\nUnsubscribe: ${U}`, U],
	[`Was this useful? Send feedback to ${B}.\nNot useful? Unsubscribe at ${U}.`, U],
	[`Manage preferences: ${U}\nPrivacy: ${A}`, U],
	[`You have unsubscribed? Change it here: ${U}`, U],
	[`Unsubscribe <${U}>\n\nDeckline Ltd, Quay 3. ${A}`, U],
	[`Stop receiving: ${U}.\nForward to a friend: ${A}.`, U],
	[`* Leave the list: ${U}\n* List archive: ${A}\n* Help: ${B}`, U],
	[`[Unsubscribe] ${U} [View online] ${A}`, U],
	[`Don't want this any more?\nUnsubscribe here:\n\n   ${U}\n`, U],
	// said in words, with an address that is somebody else's
	[`To be removed, reply with REMOVE in the subject line.\nPress: ${B}`, ''],
	[`To unsubscribe, answer this message with "stop" in the subject.\n\nKari Holm, editor\nkari@news.example`, ''],
	// German
	[`Newsletter abbestellen: ${U}\nImpressum: ${A}`, U],
	[`Fragen an ${B}. Abmelden: ${U}`, U],
	[`Wenn Sie keine weiteren E-Mails wünschen, klicken Sie bitte hier:\n${U}\nKontakt: ${B}`, U],
	[`Zum Abmelden genügt eine Mail an ${M}\nRedaktion: ${B}`, M],
	// French
	[`Pour vous désabonner : ${U}\nUne question ? ${B}`, U],
	[`Se désinscrire ${U} – Mentions légales ${A}`, U],
	[`Vous ne souhaitez plus recevoir nos offres ?\n${U}`, U],
	// Spanish
	[`Darse de baja: ${U}\nContacto: ${B}`, U],
	[`Si no desea recibir más mensajes, pulse aquí:\n${U}`, U],
	// Italian
	[`Per cancellarti: ${U}\nContatto: ${B}`, U],
	[`Se non desideri ricevere altri messaggi, clicca qui:\n${U}`, U],
	[`Gestisci le tue preferenze: ${U}`, U],
	// Dutch
	[`Uitschrijven: ${U}\nVragen? ${B}`, U],
	[`Wilt u deze nieuwsbrief niet meer ontvangen? Klik op ${U}`, U],
	// Portuguese
	[`Para cancelar a subscrição: ${U}\nDúvidas: ${B}`, U],
	[`Se não deseja receber mais mensagens, clique em ${U}`, U],
	// Danish, Swedish, Norwegian
	[`Afmeld nyhedsbrevet: ${U}\nSpørgsmål: ${B}`, U],
	[`Vil du ikke længere modtage nyhedsbrevet? ${U}`, U],
	[`Avregistrera dig: ${U}\nFrågor: ${B}`, U],
	[`Om du inte längre vill ha utskicket, klicka här: ${U}`, U],
	[`Meld deg av: ${U}\nSpørsmål: ${B}`, U],
	[`Hvis du ikke ønsker å motta flere e-poster: ${U}`, U]
];
const HTML: readonly [string, string][] = [
	[`<p><a href="${A}">Home</a> | <a href="${U}">Unsubscribe</a> | <a href="mailto:${B}">Contact</a></p>`, U],
	[`<p>To unsubscribe, click <a href="${U}">here</a>. To subscribe a friend, click <a href="${A}">here</a>.</p>`, U],
	[`<p>Questions? <a href="mailto:${B}">Write to us</a></p><p>Opt out <a href="${U}">here</a></p>`, U],
	[`<table><tr><td><a href="${A}">View online</a></td><td><a href="${U}">Manage preferences</a></td></tr></table>`, U],
	[`<p><a href="${U}">Se désinscrire</a> <a href="${A}">Confidentialité</a></p>`, U],
	[`<p><a href="${U}"><img src="x.png" alt=""> Afmelden</a> <a href="${A}">Website</a></p>`, U],
	[`<p><a href="${U}"><b>Disiscriviti</b></a> · <a href="mailto:${B}">Aiuto</a></p>`, U],
	[`<p><a href="${A}">Avprenumerera</a></p><p><a href="${B}">x</a></p>`, A]
];

const MAIL = 'Quay fees compared\n\nShore power in small ports is cheaper than last year.\n\n';

describe('the target of a footer', () => {
	it.each(TEXTS.map(([text, target]) => [text.replaceAll('\n', ' ⏎ '), text, target]))('%s', (_shown, text, target) => {
		expect(findOffer(MAIL + text, undefined)?.target).toBe(target);
	});

	it.each(HTML)('%s', (html, target) => {
		expect(findOffer('', `<html><body><p>${MAIL}</p>${html}</body></html>`)?.target).toBe(target);
	});

	it('has sixty cases', () => {
		expect(TEXTS.length + HTML.length).toBeGreaterThanOrEqual(60);
	});
});

/* What is cut out of HTML begins and ends within a tag, and has styles and comments in it. */
it.each([
	[`<td style="color: #333; font-size: 11px">${'x'.repeat(10)}<p>To unsubscribe, click <a href="${U}">here</a></p>`],
	[
		`${'<span style="a:b">'.repeat(60)}<!-- if mso --><style>p { color: red }</style>Unsubscribe: <a href="${U}">${'<b style="c: d">'.repeat(40)}here</b></a>`
	],
	[`${'<i data-x="'.padEnd(700, 'y')}">To leave this list <a class="z" href="${U}">click here</a>`]
])('no debris of HTML stands in the sentence of an offer: %#', (html) => {
	const found = findOffer('', html);
	expect(found?.target).toBe(U);
	expect(found?.sentence).not.toMatch(/[<>{}]|style|color|data-|="/);
});

it('marks of HTML in a plain text are no words of its sentence', () => {
	const found = findOffer(`${MAIL}<p>To unsubscribe, visit&nbsp;<a href="${U}">${U}</a></p>`, undefined);
	expect(found).toEqual({ target: U, sentence: expect.not.stringMatching(/[<>]|nbsp/) as string });
});
