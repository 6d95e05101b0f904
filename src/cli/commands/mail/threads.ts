import { showCount, showMessages } from '../../../core/weigh/units.ts';
import { eachThread } from '$lib/server/mail/index.ts';
import { command } from '../../command.ts';

command<{ mailbox: string }>(
	'threads',
	'show which messages belong together (RFC 5256), each below the message it answers',
	(c) => c.requiredOption('--mailbox <name>', 'mailbox'),
	async (context, { mailbox }) => {
		const threads: { messages: { messageId: string; parent: string | null; sha256: string }[] }[] = [];
		const lines: string[] = [];
		let messages = 0;
		for await (const rows of eachThread(context, { mailbox })) {
			messages += rows.length;
			threads.push({
				messages: rows.map(({ item, parent }) => ({
					messageId: item.messageId,
					parent: parent?.messageId ?? null,
					sha256: item.sha256.toString('hex')
				}))
			});
			if (rows.length > 1)
				lines.push(
					...rows.map(
						({ item, depth }) =>
							`${'  '.repeat(Math.min(depth, 20))}${item.receivedOn ?? 'undated'}  ${item.fromAddress}  ${item.shownSubject.slice(0, 80)}`
					),
					''
				);
		}
		return {
			result: { threads },
			lines: [
				...lines,
				`${showMessages(messages)} in ${showCount(threads.length)} threads; those of one message are not shown.`
			]
		};
	}
);
