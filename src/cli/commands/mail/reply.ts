import { readFileSync } from 'node:fs';
import { unsentWords } from '../../../core/writing/outgoing.ts';
import { sendMail, startMail, storeMail } from '$lib/server/writing/index.ts';
import { command, readNumber, wrongWords } from '../../command.ts';

interface ReplyWords {
	text?: string;
	textFile?: string;
	all?: boolean;
	subject?: string;
	tag?: string[];
	folder?: string;
	sendAt?: string;
	draft?: boolean;
}

/** The text: given, or read from a file, `-` for the input. */
function textOf({ text, textFile }: ReplyWords): string {
	if ((text === undefined) === (textFile === undefined)) throw wrongWords('say one of --text and --text-file');
	return text ?? readFileSync(textFile === '-' ? 0 : (textFile ?? ''), 'utf8');
}

command<ReplyWords>(
	'reply <message>',
	'reply to a message by its number (as "find --json" gives it), above its quoted text',
	(c) =>
		c
			.option('--text <text>', 'text of the mail')
			.option('--text-file <file>', 'file with the text; - reads the input')
			.option('--all', 'reply to all')
			.option('--subject <subject>', 'another subject')
			.option('--folder <path>', 'folder of its copy; without it, that of sent mail')
			.option('--tag <tag...>', 'tags of its copy')
			.option('--send-at <instant>', 'when it goes: 2026-12-01T08:00:00Z')
			.option('--draft', 'keep it as a draft'),
	async (context, words, message) => {
		const written = textOf(words);
		const begun = await startMail(context, {
			kind: words.all ? 'reply-all' : 'reply',
			itemId: readNumber('the message', message, Number.MAX_SAFE_INTEGER)
		});
		const mail = {
			mailboxId: begun.mailbox.id,
			kind: begun.kind,
			itemId: begun.original?.id,
			from: begun.from,
			to: begun.to,
			cc: begun.cc,
			subject: words.subject ?? begun.subject,
			text: `${written.trimEnd()}${begun.text}`,
			attachesOriginal: false,
			filing: {
				...(words.folder === undefined ? {} : { folder: words.folder }),
				...(words.tag === undefined ? {} : { tags: words.tag })
			},
			sendAt: words.sendAt
		};
		const { id } = await storeMail(context, mail);
		const about = { id, to: mail.to, cc: mail.cc, subject: mail.subject };
		if (words.draft || words.sendAt !== undefined) {
			const state = words.sendAt === undefined ? 'draft' : 'waiting';
			return {
				result: { ...about, state, sendAt: words.sendAt ?? null },
				lines: [`"${mail.subject}" is kept${state === 'waiting' ? `, and goes at ${words.sendAt}` : ' as a draft'}.`]
			};
		}
		const { isSent, isUnknown, said, itemId } = await sendMail(context, { id });
		return {
			result: { ...about, state: isSent ? 'sent' : isUnknown ? 'unknown' : 'failed', said, item: itemId ?? null },
			lines: [
				isSent ? `Sent to ${mail.to}: ${said}.` : `${unsentWords({ isUnknown, said })}. It is kept under Outgoing.`
			],
			ok: isSent
		};
	}
);
