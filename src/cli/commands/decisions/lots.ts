import { type Grouping, GROUPINGS, LOT_SORTS } from '../../../core/lots/lots.ts';
import { showBytes, showCount, showMessages } from '../../../core/weigh/units.ts';
import { listLots } from '$lib/server/lots/index.ts';
import { requireMailbox } from '$lib/server/mail/index.ts';
import { command, oneOf, readNumber } from '../../command.ts';
import { table } from '../../terminal.ts';

interface LotsOptions {
	mailbox?: string;
	by: string;
	where?: string;
	folder?: string;
	sort: string;
	limit: string;
}

command<LotsOptions>(
	'lots',
	`group what lies in folders by ${Object.keys(GROUPINGS).join(', ')}`,
	(c) =>
		c
			.requiredOption('--by <what>', 'what the messages of a lot share')
			.option('--mailbox <name>', 'one mailbox (without: all)')
			.option('--where <query>', 'only what this search finds')
			.option('--folder <path>', 'only this folder and its subfolders')
			.option('--sort <column>', LOT_SORTS.join(', '), 'bytes')
			.option('--limit <n>', 'lots to show', '1000000'),
	async (context, { mailbox, by, where, folder, sort, limit }) => {
		const { lots, total } = await listLots(context, {
			mailboxId: mailbox === undefined ? undefined : (await requireMailbox(context, mailbox)).id,
			by: oneOf('--by', Object.keys(GROUPINGS) as Grouping[], by),
			query: where,
			folder,
			sort: oneOf('--sort', LOT_SORTS, sort),
			limit: readNumber('--limit', limit, 10_000_000)
		});
		return {
			result: { by, total, lots },
			lines: [
				`${showCount(total.lots)} lots, ${showMessages(total.messages)} (${showBytes(total.bytes)}).`,
				...table([
					['lot', 'messages', 'size', 'unread', 'oldest', 'newest', 'answered'],
					...lots.map(({ label, messages, bytes, unread, oldest, newest, answered }) => [
						label.slice(0, 60),
						showCount(messages),
						showBytes(bytes),
						showCount(unread),
						oldest ?? '',
						newest ?? '',
						answered ?? ''
					])
				])
			]
		};
	}
);
