import { describe, it } from 'vitest';
import { expectLinearTime } from '../../lib/server/testing/time.ts';
import { summarise } from './summary.ts';

const H = 'From: a@b.example\nSubject: x\n';
const HTML = `${H}Content-Type: text/html\n\n`;

/* Mail of about a given size that is made to be slow to read. */
const HOSTILE: Record<string, (n: number) => string> = {
	nestedMultipart: (n) => {
		let s = H;
		for (let i = 0; i < n / 60; i++) s += `Content-Type: multipart/mixed; boundary=b${i}\n\n--b${i}\n`;
		return s + '\nwords';
	},
	nestedRfc822: (n) => H + 'Content-Type: message/rfc822\n\n'.repeat(n / 30) + 'x',
	longHeader: (n) => H + 'References: ' + '<a@b> '.repeat(n / 6) + '\n\nx',
	manyHeaders: (n) => H + 'X: y\n'.repeat(n / 5) + '\nx',
	foldedSubject: (n) => 'From: a@b.example\nSubject: ' + 'a\n '.repeat(n / 3) + '\n\nx',
	encodedWords: (n) => 'From: a@b.example\nSubject: ' + '=?utf-8?Q?a?= '.repeat(n / 14) + '\n\nx',
	addresses: (n) => 'From: a@b.example\nTo: ' + 'a@b.example, '.repeat(n / 13) + '\n\nx',
	parens: (n) => 'From: a@b.example\nTo: ' + '('.repeat(n) + '\n\nx',
	quotes: (n) => 'From: "' + '\\"'.repeat(n / 2) + '\n\nx',
	groups: (n) => 'From: a@b.example\nTo: ' + 'g:'.repeat(n / 2) + '\n\nx',
	params: (n) => H + 'Content-Type: text/plain; ' + 'a=b; '.repeat(n / 5) + '\n\nx',
	comments: (n) => H + 'Content-Type: text/plain; a=b ' + '('.repeat(n) + '\n\nx',
	commentsThatEnd: (n) => H + 'Content-Type: text/plain; a=b ' + '(a) '.repeat(n / 4) + '\n\nx',
	boundaryLines: (n) => H + 'Content-Type: multipart/mixed; boundary=b\n\n' + '--b\n\nx\n'.repeat(n / 7),
	quotedLines: (n) => H + '\n' + '> x\n'.repeat(n / 4),
	greaterThans: (n) => H + '\n' + '>'.repeat(n),
	flowed: (n) => H + 'Content-Type: text/plain; format=flowed; delsp=yes\n\n' + 'a \n'.repeat(n / 3),
	qp: (n) => H + 'Content-Transfer-Encoding: quoted-printable\n\n' + '=\n'.repeat(n / 2),
	b64: (n) => H + 'Content-Transfer-Encoding: base64\n\n' + '=A'.repeat(n / 2),
	thanks: (n) => H + '\nThanks ' + ' '.repeat(n) + '\n',
	attribution: (n) => H + '\n' + ('a '.repeat(90) + 'wrote ' + 'b'.repeat(60) + '\n>x\n').repeat(n / 250),
	calendar: (n) => H + 'Content-Type: text/calendar\n\nBEGIN:VEVENT\n' + 'DTSTART'.repeat(n / 7) + '\nEND:VEVENT',
	listUnsub: (n) => H + 'List-Unsubscribe: ' + '('.repeat(n) + '\n\nx',
	dkim: (n) =>
		H +
		'List-Unsubscribe: <https://x.example>\nList-Unsubscribe-Post: List-Unsubscribe=One-Click\nDKIM-Signature: ' +
		'h=a; '.repeat(n / 5) +
		'\n\nx',
	authres: (n) =>
		H +
		'List-Unsubscribe: <https://x.example>\nList-Unsubscribe-Post: List-Unsubscribe=One-Click\nDKIM-Signature: v=1;a=a;b=b;bh=c;d=d;h=list-unsubscribe:list-unsubscribe-post;s=s\nAuthentication-Results: ' +
		'dkim '.repeat(n / 5) +
		'\n\nx',
	listId: (n) => H + 'List-Id: ' + '<'.repeat(n) + '\n\nx',
	htmlSpaces: (n) => HTML + ' '.repeat(n) + 'x',
	htmlAnchors: (n) => HTML + '<a href="x">unsubscribe'.repeat(n / 22),
	htmlTable: (n) => HTML + '<table><tr><td>'.repeat(n / 15),
	htmlBlockquote: (n) => HTML + '<blockquote>x'.repeat(n / 13),
	htmlList: (n) => HTML + '<ul><li>'.repeat(n / 8),
	htmlEntities: (n) => HTML + '&amp'.repeat(n / 4),
	htmlPre: (n) => HTML + '<pre>' + ' \n'.repeat(n / 2),
	utf7: (n) => H + 'Content-Type: text/plain; charset=utf-7\n\n' + '+A'.repeat(n / 2),
	date: (n) => 'From: a@b.example\nDate: ' + '1 '.repeat(n / 2) + '\n\nx',
	received: (n) => 'From: a@b.example\n' + 'Received: x; Mon, 1 Jan 2020 10:00:00 +0000\n'.repeat(n / 45) + '\nx',
	filename: (n) => H + 'Content-Type: text/plain; name*0=' + 'a'.repeat(n) + '\n\nx',
	rfc2231: (n) =>
		H + 'Content-Type: text/plain; ' + Array.from({ length: n / 12 }, (_, i) => `name*${i}=a`).join('; ') + '\n\nx',
	msgid: (n) => H + 'Message-ID: ' + '<'.repeat(n) + '\n\nx',
	subjectRe: (n) => 'From: a@b.example\nSubject: ' + 'Re: '.repeat(n / 4) + '\n\nx',
	subjectFwd: (n) => 'From: a@b.example\nSubject: ' + '[Fwd: '.repeat(n / 6) + ']'.repeat(n / 6) + '\n\nx',
	offer: (n) => H + '\n' + 'to unsubscribe we '.repeat(n / 18)
};

describe('mail that is made to be read slowly', () => {
	it.each(Object.entries(HOSTILE))('is read in a time that follows its length: %s', async (_what, make) => {
		const [small, large] = [200_000, 1_600_000].map((n) => new Uint8Array(Buffer.from(make(n), 'latin1')));
		await expectLinearTime(
			() => summarise(small as Uint8Array),
			() => summarise(large as Uint8Array),
			8
		);
	});
});
