import { readFile } from 'node:fs/promises';
import { showCount, showMessages } from '../../../core/weigh/units.ts';
import { decideKeepList, searchKeepList } from '$lib/server/keep-list/index.ts';
import { requireMailbox } from '$lib/server/mail/index.ts';
import { changing, oneOf, wrongWords } from '../../command.ts';
import { table } from '../../terminal.ts';

interface KeepListOptions {
	mailbox?: string;
	decision?: string;
	tag?: string;
	to?: string;
	standing?: boolean;
}

changing<KeepListOptions>(
	'keep-list <file>',
	'search words, names and subjects, one a line or the first column of a CSV, in one go',
	(c) =>
		c
			.option('--mailbox <name>', 'one mailbox (without: all)')
			.option('--decision <word>', 'draft dockets that keep, tag or move matching messages')
			.option('--tag <name>', 'for tag')
			.option('--to <folder>', 'for move')
			.option('--standing', 'also of mail still to come'),
	async (context, { mailbox, decision, tag, to, standing = false }, file = '') => {
		const text = await readFile(file, 'utf8').catch(() => {
			throw wrongWords(`the file "${file}" cannot be read`);
		});
		const mailboxId = mailbox === undefined ? undefined : (await requireMailbox(context, mailbox)).id;
		const hits = await searchKeepList(context, { mailboxId, text });
		const dockets =
			decision === undefined
				? []
				: await decideKeepList(context, {
						mailboxId,
						text,
						decision: oneOf('--decision', ['keep', 'tag', 'move'] as const, decision),
						options: { ...(tag === undefined ? {} : { tag }), ...(to === undefined ? {} : { folder: to }) },
						standing
					});
		return {
			result: { lines: hits, dockets: dockets.map(({ id, mailbox, messages }) => ({ id, mailbox, messages })) },
			lines: [
				`${showCount(hits.length)} lines.`,
				...table(
					hits.map(({ line, messages, messagesIsMore }) => [
						line,
						`${messagesIsMore ? 'more than ' : ''}${showMessages(messages)}`
					])
				),
				...dockets.map(({ id, sentences }) => `Docket ${id}: ${sentences.join(' ')}`)
			]
		};
	}
);
