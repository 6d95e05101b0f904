import { readBytes, showBytes } from '../../../core/weigh/units.ts';
import { setQuota } from '$lib/server/mail/index.ts';
import { changing, wrongWords } from '../../command.ts';

changing<{ mailbox: string }>(
	'quota <size>',
	'set the quota of a mailbox, such as "2 GB", or none',
	(c) => c.requiredOption('--mailbox <name>', 'mailbox; made where it is new'),
	async (context, { mailbox }, size = '') => {
		const bytes = size === 'none' ? undefined : readBytes(size);
		if (size !== 'none' && bytes === undefined) throw wrongWords(`"${size}" is no size; write 500 MB, or none`);
		const { name, quotaBytes } = await setQuota(context, { mailbox, bytes });
		return {
			result: { mailbox: name, quotaBytes: quotaBytes ?? null },
			lines: [`The quota of ${name} is ${quotaBytes === undefined ? 'none' : showBytes(quotaBytes)}.`]
		};
	}
);
