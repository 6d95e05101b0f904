import path from 'node:path';
import { showBytes, showMessages } from '../../../core/weigh/units.ts';
import { EXPORT_FORMATS, exportMail } from '$lib/server/find/index.ts';
import { command, oneOf, wrongWords } from '../../command.ts';

command<{ mailbox: string; folder?: string; query?: string; format: string; out: string }>(
	'export',
	'write messages as files, byte for byte as they came in',
	(c) =>
		c
			.requiredOption('--mailbox <name>', 'mailbox')
			.option('--folder <path>', 'only this folder and its subfolders')
			.option('--query <query>', 'only what this finds')
			.requiredOption('--format <format>', 'eml: one file a message; mbox: one file a folder; maildir: with flags')
			.requiredOption('--out <path>', 'folder, new or empty'),
	async (context, { mailbox, folder, query, format, out }) => {
		const selected = oneOf('--format', EXPORT_FORMATS, format);
		if (folder !== undefined && query !== undefined) throw wrongWords('name a folder or a search, not both');
		const result = await exportMail(context, { mailbox, folder, query, format: selected, out: path.resolve(out) });
		const { written, bytes, damaged, finished, noted } = result;
		return {
			result,
			ok: finished && damaged.length === 0,
			lines: [
				`Wrote ${showMessages(written)} (${showBytes(bytes)}) to ${out}.`,
				...(noted ? [] : ['It is not in the ledger: nothing can be written to the data folder now.']),
				...damaged.map((place) => `  DAMAGED and not written: ${place}`)
			]
		};
	}
);
