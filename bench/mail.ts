import { createWriteStream } from 'node:fs';
import { once } from 'node:events';
import { Dice } from '../demo/random.ts';
import { Vocabulary } from './words.ts';

/** The average size of a message, in bytes. */
export const MESSAGE_BYTES = 13_000;

function noise(dice: Dice, bytes: number): string {
	const buffer = Buffer.alloc(bytes);
	for (let at = 0; at < bytes; at += 4) buffer.writeUInt32LE((dice.next() * 2 ** 32) >>> 0, Math.min(at, bytes - 4));
	return buffer.toString('base64').replace(/.{76}/g, '$&\n');
}

/**
 * Writes an mbox file of mail that is mostly text: plain, plain with HTML, and every eighth message with a file that does not
 * compress; in all about {@link MESSAGE_BYTES} a message.
 *
 * @param conversing every fifth message answers the one before and quotes it whole, every twentieth comes a second time by
 *   another way
 */
export async function writeMbox(file: string, messages: number, seed = 4711, conversing = false): Promise<void> {
	const dice = new Dice(seed);
	const words = new Vocabulary(30_000, dice);
	const files = Array.from({ length: 40 }, () => noise(dice, dice.between(8_000, 60_000)));
	const out = createWriteStream(file);
	let before = { id: '', subject: '', text: '', entry: '' };
	for (let at = 0; at < messages; at++) {
		const when = new Date(Date.UTC(2017, 0, 1) + Math.floor((at / messages) * 3285 * 86_400_000));
		const who = dice.between(1, 2_000);
		if (conversing && at % 20 === 7) {
			if (!out.write(before.entry.replace('Received: from mx.', 'Received: from mx2.'))) await once(out, 'drain');
			continue;
		}
		const answers = conversing && at % 5 === 4;
		const id = `<${at}.${seed}@place${who % 500}.example>`;
		const subject = answers ? `Re: ${before.subject}` : words.text(dice, 5).trim();
		const header = [
			`From person${who}@place${who % 500}.example ${when
				.toUTCString()
				.slice(0, 25)
				.replace(/^(\w+), (\d+) (\w+) (\d+) (.*)$/, '$1 $3 $2 $5 $4')}`,
			`Received: from mx.place${who % 500}.example by mail.skerryline.example; ${when.toUTCString()}`,
			`From: Person ${who} <person${who}@place${who % 500}.example>`,
			'To: Office <office@skerryline.example>',
			`Subject: ${subject}`,
			...(answers ? [`References: ${before.id}`] : []),
			`Date: ${when.toUTCString()}`,
			`Message-ID: ${id}`,
			...(who % 10 === 0 ? [`List-Id: <list${who}.place${who % 500}.example>`] : []),
			'MIME-Version: 1.0'
		].join('\n');
		const own = words.text(dice, dice.between(100, 900));
		const text = answers ? `${own}\n\n${before.text.replace(/^/gm, '> ')}` : own;
		const html = `<html><body>${text
			.split('\n')
			.map((line) => `<p style="margin: 0; font-family: Arial">${line}</p>`)
			.join('\n')}</body></html>`;
		const plain = `Content-Type: text/plain; charset=utf-8\n\n${text}\n`;
		const body =
			at % 8 === 0
				? `Content-Type: multipart/mixed; boundary="=b"\n\n--=b\n${plain}\n--=b\nContent-Type: application/octet-stream; name="file ${at % 40}.bin"\nContent-Disposition: attachment; filename="file ${at % 40}.bin"\nContent-Transfer-Encoding: base64\n\n${files[at % 40]}\n--=b--\n`
				: at % 12 < 8
					? `Content-Type: multipart/alternative; boundary="=b"\n\n--=b\n${plain}\n--=b\nContent-Type: text/html; charset=utf-8\n\n${html}\n--=b--\n`
					: plain;
		const entry = `${header}\n${body}\n`;
		before = { id, subject: subject.replace(/^(Re: )+/, ''), text, entry };
		if (!out.write(entry)) await once(out, 'drain');
	}
	out.end();
	await once(out, 'finish');
}
