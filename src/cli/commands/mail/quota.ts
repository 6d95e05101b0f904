import { USUAL_LIMITS } from '../../../core/weigh/quota-warning.ts';
import { readBytes, showBytes } from '../../../core/weigh/units.ts';
import { setQuota } from '$lib/server/mail/index.ts';
import { setQuotaWarnings } from '$lib/server/weigh/index.ts';
import { changing, command, readNumber, wrongWords } from '../../command.ts';

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

command<{ at?: string; days?: string }>(
	'quota-warnings',
	'set at which shares of a quota, and how many days before a mailbox is full, people are warned',
	(c) =>
		c
			.option('--at <shares>', 'per cent of the quota, such as "80, 90, 100"', USUAL_LIMITS.shares.join(', '))
			.option('--days <n>', 'days before the mailbox is full', String(USUAL_LIMITS.days)),
	async (context, { at = '', days = '' }) => {
		const limits = await setQuotaWarnings(context, { shares: at, days: readNumber('--days', days, 366) });
		return {
			result: limits,
			lines: [
				`People are warned at ${limits.shares.join(', ')} % of a quota, and ${limits.days} days before it is full.`
			]
		};
	}
);
