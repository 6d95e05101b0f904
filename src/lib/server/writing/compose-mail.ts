import MimeNode from 'nodemailer/lib/mime-node/index.js';
import { flowText } from '../../../core/writing/flowed.ts';
import { readRecipients } from '../../../core/writing/outgoing.ts';
import type { Outgoing } from './outgoing-store.ts';

/* RFC 5322 section 3.3 in UTC. */
const mailDate = (at: Date) => at.toUTCString().replace('GMT', '+0000');

/* Header values come from typed and quoted text: whatever could end a line is a blank. */
const inOneLine = (text: string) => text.replace(/\p{Cc}+/gu, ' ').trim();

/**
 * The bytes of a mail: plain text as format=flowed (RFC 3676), with the original as message/rfc822 if it is attached. The
 * same mail and time give the same bytes, so that filing it twice adds no second.
 */
export async function composeMail(mail: Outgoing, at: Date, original: Buffer | undefined): Promise<Buffer> {
	const options = { baseBoundary: mail.messageId.replace(/\W/g, ''), disableFileAccess: true, disableUrlAccess: true };
	const text = (node: MimeNode) =>
		node
			.setHeader('content-type', 'text/plain; charset=utf-8; format=flowed')
			// the blanks of soft breaks survive every server
			.setHeader('content-transfer-encoding', 'quoted-printable')
			.setContent(Buffer.from(`${flowText(mail.text)}\n`.replace(/\n/g, '\r\n')));
	const root = new MimeNode(original ? 'multipart/mixed' : 'text/plain', options);
	root.setHeader({
		from: mail.from,
		to: readRecipients(mail.to).recipients,
		...(mail.cc.trim() === '' ? {} : { cc: readRecipients(mail.cc).recipients }),
		subject: inOneLine(mail.subject),
		date: mailDate(at),
		'message-id': mail.messageId,
		...(mail.inReplyTo ? { 'in-reply-to': inOneLine(mail.inReplyTo) } : {}),
		...(mail.references.length > 0 ? { references: mail.references.map(inOneLine).join(' ') } : {}),
		'mime-version': '1.0'
	});
	if (!original) return text(root).build();
	text(root.createChild('text/plain'));
	root
		.createChild('message/rfc822')
		.setRaw(
			Buffer.concat([
				Buffer.from('Content-Type: message/rfc822\r\nContent-Disposition: attachment\r\n\r\n'),
				Buffer.from(original.toString('latin1').replace(/\r\n|\r|\n/g, '\r\n'), 'latin1')
			])
		);
	return root.build();
}
