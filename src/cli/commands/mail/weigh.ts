import { showBytes, showCount, showMessages } from '../../../core/weigh/units.ts';
import { requireMailbox } from '$lib/server/mail/index.ts';
import { listWeights, type Weighing, weighMailbox } from '$lib/server/weigh/index.ts';
import { command } from '../../command.ts';
import { table } from '../../terminal.ts';

command<{ mailbox?: string }>(
	'weigh',
	'show how large mailboxes and their folders are',
	(c) => c.option('--mailbox <name>', 'one mailbox with its folders (without: all mailboxes)'),
	async (context, { mailbox: name }) => {
		const selected = name === undefined ? await listWeights(context) : [await requireMailbox(context, name)];
		const weighed: Weighing[] = [];
		for (const { id } of selected) weighed.push(await weighMailbox(context, { mailboxId: id }));
		const folders = weighed.flatMap(({ mailbox, folders }) =>
			folders.map((folder) => ({ mailbox: mailbox.name, ...folder }))
		);
		const sum = (key: 'messages' | 'bytes') => weighed.reduce((total, { mailbox }) => total + mailbox[key], 0);
		return {
			result: {
				messages: sum('messages'),
				bytes: sum('bytes'),
				mailboxes: weighed.map(({ mailbox: { name, messages, bytes, quotaBytes, archived }, warnings }) => ({
					name,
					messages,
					bytes,
					quotaBytes: quotaBytes ?? null,
					archived,
					warnings
				})),
				folders: folders.map(({ mailbox, path, messages, bytes, messagesBelow, bytesBelow }) => ({
					mailbox,
					path,
					messages,
					bytes,
					messagesBelow,
					bytesBelow
				}))
			},
			lines: weighed.flatMap(({ mailbox, folders, advice, warnings }) => [
				`${mailbox.name}: ${showMessages(mailbox.messages)}, ${showBytes(mailbox.bytes)}${mailbox.quotaBytes === undefined ? '' : ` of ${showBytes(mailbox.quotaBytes)}`}; ${showMessages(mailbox.archived.messages)} archived (${showBytes(mailbox.archived.bytes)})`,
				...warnings.map((warning) => `  ${warning}`),
				...table([
					['  folder', 'own', 'with subfolders', ''],
					...folders.map(({ path, messages, messagesBelow, bytesBelow }) => [
						`  ${path}`,
						showCount(messages),
						showCount(messagesBelow),
						showBytes(bytesBelow)
					])
				]),
				advice
			])
		};
	}
);
