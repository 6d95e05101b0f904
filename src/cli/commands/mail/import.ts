import path from 'node:path';
import { showBytes, showCount, showMessages } from '../../../core/weigh/units.ts';
import { importMailbox, readFiles } from '$lib/server/intake/index.ts';
import { changing } from '../../command.ts';
import { table } from '../../terminal.ts';

changing<{ mailbox: string; folder?: string; filesLater?: boolean }>(
	'import <path>',
	'import an mbox file, a message (EML) or a folder of messages',
	(c) =>
		c
			.requiredOption('--mailbox <name>', 'mailbox to put it into; made where it is new')
			.option('--folder <path>', 'folder in it (without: Inbox)')
			.option('--new', 'begin a new archive in the data folder, where there is none')
			.option('--files-later', 'leave it to the server to look into attachments, for the words inside them'),
	async (context, { mailbox, folder, filesLater }, source = '') => {
		const result = await importMailbox(context, { path: path.resolve(source), mailbox, folder, source, alone: true });
		if (!filesLater) await readFiles(context);
		const { read, added, already, unreadable, bytes } = result;
		return {
			result,
			lines: [
				`${showMessages(read)} read (${showBytes(bytes)}) for ${result.mailbox}:`,
				...table([
					['  added', showCount(added)],
					['  there already', showCount(already)],
					['  unreadable, kept raw', showCount(unreadable)]
				])
			]
		};
	}
);
