import { showMessages } from '../../../core/weigh/units.ts';
import { find } from '$lib/server/find/index.ts';
import { command, readNumber } from '../../command.ts';
import { table } from '../../terminal.ts';

command<{ mailbox?: string; limit: string }>(
	'search <query>',
	'find archived and live messages: words, "phrases", begin*, not, or, brackets, and the keys of docs/guide/find.md',
	(c) => c.option('--mailbox <name>', 'only in this mailbox').option('--limit <n>', 'messages to show', '20'),
	async (context, { mailbox, limit }, query = '') => {
		const shown = readNumber('--limit', limit, 10_000);
		const { total, totalIsMore, hits } = await find(context, { query, mailbox, limit: shown });
		return {
			result: {
				total,
				totalIsMore,
				hits: hits.map(
					({
						id,
						messageId,
						subject,
						fromName,
						fromAddress,
						receivedAt,
						receivedOn,
						mailbox,
						folder,
						origin,
						state,
						bytes
					}) => ({
						id,
						messageId,
						subject,
						from: fromName ? `${fromName} <${fromAddress}>` : fromAddress,
						fromAddress,
						received: receivedAt === null ? null : new Date(receivedAt * 1000).toISOString(),
						receivedOn,
						mailbox,
						folder,
						origin,
						state,
						bytes
					})
				)
			},
			lines: [
				`${totalIsMore ? 'More than ' : ''}${showMessages(total)} found.`,
				...table(
					hits.map(({ id, receivedOn, state, subject, fromAddress }) => [
						`${id}  ${receivedOn ?? 'undated   '}  ${state.padEnd(8)}  ${subject.slice(0, 70) || '(no subject)'}`,
						fromAddress
					])
				)
			]
		};
	}
);
