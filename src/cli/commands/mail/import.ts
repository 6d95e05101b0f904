import path from 'node:path';
import { Option } from 'commander';
import { showBytes, showCount, showMessages } from '../../../core/weigh/units.ts';
import { filesWait, importMailbox, readFiles } from '$lib/server/intake/index.ts';
import { changing } from '../../command.ts';
import { table } from '../../terminal.ts';

changing<{ mailbox: string; folder?: string; filesNow?: boolean }>(
	'import <path>',
	'import an mbox file, a message (EML) or a folder of messages',
	(c) =>
		c
			.requiredOption('--mailbox <name>', 'mailbox to import into; made if it is new')
			.option('--folder <path>', 'folder in it (without: Inbox)')
			.option('--new', 'begin a new archive in the data folder, where there is none')
			.option(
				'--files-now',
				'wait until the words inside attachments are read too (without: the server reads them later)'
			)
			// the former word for what is done anyway
			.addOption(new Option('--files-later').hideHelp()),
	async (context, { mailbox, folder, filesNow }, source = '') => {
		const result = await importMailbox(context, { path: path.resolve(source), mailbox, folder, source, alone: true });
		if (filesNow) await readFiles(context);
		const { read, added, already, unreadable, bytes } = result;
		return {
			result,
			lines: [
				`${showMessages(read)} read (${showBytes(bytes)}) for ${result.mailbox}:`,
				...table([
					['  added', showCount(added)],
					['  there already', showCount(already)],
					['  unreadable, kept raw', showCount(unreadable)]
				]),
				...((await filesWait(context))
					? ['The words inside attachments are not read yet: the server reads them in the background.']
					: [])
			]
		};
	}
);
