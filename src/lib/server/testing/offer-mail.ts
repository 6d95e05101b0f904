/*
 * Footers and sentences in the style of the demo; a person labelled whether each offers to unsubscribe from a list.
 */

const NEWS = 'Quay fees compared\n\nShore power in small ports is cheaper than last year.\n\n';
const LETTER = 'Dear office,\n\nthe lift on the car deck is stuck again.\n\n';

/** Endings of messages that offer to unsubscribe. */
export const OFFERING: string[] = [
	// English
	'-- \nYou get this because you asked for Harbour Times. To leave: https://weekly.harbourtimes.example/leave/1',
	'Unsubscribe: https://deals.deckandengine.example/u/77',
	'If you no longer wish to receive these offers, visit\nhttps://x.example/prefs?id=9',
	'To unsubscribe from this list, send a message to leave@tidewatch.example.',
	'To be removed, reply to this message with REMOVE in the subject line.',
	'You can opt out at any time by writing to privacy@x.example',
	'Manage your subscription or leave this list at www pages: http://x.example/m',
	"Don't want these mails? Stop receiving them here: https://x.example/stop",
	'This message was sent to office@skerryline.example. Opt-out: https://x.example/o?u=1',
	'Prefer not to receive our bulletin? Change your e-mail preferences at\n\nhttps://x.example/p',
	// German
	'Sie möchten unseren Rundbrief nicht mehr erhalten? Hier abmelden: https://rundbrief.inselkammer.example/ab',
	'Newsletter abbestellen: https://x.example/ab',
	'Zum Abbestellen genügt eine E-Mail an abmeldung@x.example.',
	'Wenn Sie keine weiteren E-Mails von uns wünschen, klicken Sie bitte hier:\nhttps://x.example/k',
	'Abmeldung jederzeit unter https://x.example/abmelden möglich.',
	'Um sich auszutragen, antworten Sie bitte mit dem Betreff „Austragen“.',
	'Sie können Ihre Einwilligung widerrufen: datenschutz@x.example',
	'Abo beenden: https://x.example/abo/1',
	'Wollen Sie den Newsletter kündigen? https://x.example/weg',
	'Möchten Sie sich abmelden, schreiben Sie bitte an weg@x.example',
	// French
	'Pour vous désabonner, cliquez ici : https://x.example/d',
	'Si vous ne souhaitez plus recevoir nos offres : https://x.example/stop',
	'Désinscription : https://x.example/des',
	'Se désinscrire de cette lettre : répondez avec « stop » en objet.',
	'Vous pouvez vous désinscrire à tout moment en écrivant à liste@x.example',
	'Pour ne plus recevoir ce bulletin, envoyez un message à bulletin-off@x.example',
	'Désabonnement\nhttps://x.example/x/y',
	'Gérer votre abonnement : https://x.example/g',
	'Pour quitter cette liste : https://x.example/q',
	'Résilier : https://x.example/r',
	// Spanish
	'Si desea darse de baja, pulse aquí: https://x.example/baja',
	'Para cancelar su suscripción, envíe un correo a baja@x.example.',
	'Si no desea recibir más mensajes: https://x.example/no',
	'Darse de baja: https://x.example/b',
	'¿Quieres dejar de recibir este boletín? Haz clic: https://x.example/c',
	'Puede anular su suscripción escribiendo a boletin@x.example',
	'Para desuscribirse visite https://x.example/d',
	'Cancela tu suscripción aquí https://x.example/e',
	'Para darte de baja responde con el asunto BAJA.',
	'Gestionar sus preferencias: https://x.example/f'
].map((footer) => NEWS + footer);

/** Messages that do not, among them some that mention it. */
export const NOT_OFFERING: string[] = [
	// English
	'I tried to unsubscribe from their list twice, and they still write. Can you block them?\n\nTove',
	'We had to remove the old ramp; pictures at https://x.example/ramp.',
	'He wants to leave the island on Friday. The boat: https://x.example/times',
	'Could you unsubscribe the office from the fuel bulletin?\n\nEmre',
	'To leave at nine we need the crew at eight.',
	'She asked whether one can opt out of the pension plan; I said I would ask.\n\nBirgit',
	'Your booking is confirmed: https://x.example/b/12\nSee you on board.',
	'The subscription for the tide tables runs out in May.\n\nAldo Ferrini\naldo.ferrini@skerryline.example',
	'Please stop sending the roster as a picture.\n\nDagny\nhttps://skerryline.example',
	'They have removed two berths from the plan.\n\nHarbour Master\nmaster@vesteroy-port.example',
	// German
	'Kannst du dich bitte bei der Versammlung abmelden? Ich komme nicht.\n\nGruß, Birgit',
	'Ich habe den Newsletter letzte Woche abbestellt, er kommt immer noch.',
	'Das Schiff fährt um neun ab: https://x.example/plan',
	'Die Rechnung ist angehängt. Bei Fragen: rechnung@brightline.example',
	'Wir kündigen den Vertrag über die Winterlager zum Jahresende.',
	'Die Bestellung der Farbe ist raus.\n\nHolm Paint Works\nhttps://holmpaint.example',
	'Wir haben die alte Leitung beendet und die neue angeschlossen.',
	'Er hat sich von Bord abgemeldet.',
	'Bitte um Rückruf. Tel. 112\nj.groessl@brief.example',
	'Der Antrag wurde widerrufen, siehe https://x.example/antrag',
	// French
	"J'ai essayé de me désabonner sans succès.\n\nMireille",
	"Nous n'avons pas reçu la facture : https://x.example/f",
	'Merci de me rappeler.\n\nÉlodie Lefèvre\nelodie.lefevre@courriel.example',
	'Le bateau quitte le port à neuf heures : https://x.example/h',
	"L'inscription au cours est ouverte : https://x.example/cours",
	'Nous gérons votre réservation, voir https://x.example/r',
	'Elle veut résilier le contrat de charter.',
	'La traversée du 14 a été annulée.',
	'Vos préférences de cabine sont notées.\nbureau@x.example',
	"L'abonnement de saison coûte 120.",
	// Spanish
	'Quiero dar de baja el seguro del barco.\n\nJosé',
	'El precio de la suscripción sube en mayo.',
	'Mi maleta llegó mojada: https://x.example/foto',
	'No puedo recibir la llamada hoy.\njoseangel@correo.example',
	'La rampa baja a las nueve.',
	'Han cancelado la travesía: https://x.example/aviso',
	'Yo intenté darme de baja dos veces.\n\nJosé Ángel',
	'Por favor, deje las llaves en la oficina: oficina@x.example',
	'Adjunto el contrato firmado.',
	'¿Puede gestionar la reserva? https://x.example/res'
].map((text) => LETTER + text);
