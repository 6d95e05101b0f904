import { readBytes, showCount } from '../../../core/weigh/units.ts';
import { RETAINING, setRetaining } from '$lib/server/retention/index.ts';
import { setClearing } from '$lib/server/archive/index.ts';
import { changing, group, oneOf, readNumber, wrongWords } from '../../command.ts';

/* `mailbox`: a mailbox and its settings. */
const mailboxes = group('mailbox', 'set the addresses of a mailbox and what is aimed at in its inbox');

changing<{
	address?: string[];
	inboxAim?: string;
	retention?: string;
	every?: string;
	seen?: string;
	workingQuota?: string;
}>(
	'set <mailbox>',
	'set what is given',
	(c) =>
		c
			.option('--address <address...>', 'addresses under which it is written to')
			.option('--inbox-aim <n>', 'so many messages in the inbox need no scrolling')
			.option('--retention <mode>', 'off; ask: what is due waits for a person; do: it is done by itself')
			.option('--every <days>', 'the schedule runs every so many days')
			.option('--seen <n>', 'how many messages "run-schedule --dry-run" says are due, to switch retention on')
			.option('--working-quota <size>', 'what working papers may weigh, such as 500MB; "none": no quota'),
	async (context, { address, inboxAim, retention, every, seen, workingQuota }, mailbox = '') => {
		const quota = workingQuota === undefined || workingQuota === 'none' ? null : readBytes(workingQuota);
		if (quota === undefined) throw wrongWords(`--working-quota takes a size such as 500MB, not "${workingQuota}"`);
		const retains = await setRetaining(context, {
			mailbox,
			mode: retention === undefined ? undefined : oneOf('--retention', RETAINING, retention),
			every: every === undefined ? undefined : readNumber('--every', every, 366),
			seen: seen === undefined ? undefined : readNumber('--seen', seen, 100_000_000),
			workingQuotaBytes: workingQuota === undefined ? undefined : quota
		});
		const set = await setClearing(context, {
			mailbox,
			addresses: address,
			inboxAim: inboxAim === undefined ? undefined : readNumber('--inbox-aim', inboxAim, 1_000_000)
		});
		return {
			result: {
				mailbox: set.name,
				addresses: set.addresses,
				inboxAim: set.inboxAim,
				retention: retains.retains,
				every: retains.retainsEvery,
				workingQuotaBytes: retains.workingQuotaBytes
			},
			lines: [
				`${set.name} is written to as ${set.addresses.join(', ') || 'nobody knows what'}; ${showCount(set.inboxAim)} messages in the inbox are aimed at.`,
				`Retention: ${retains.retains}, ${retains.retainsEvery === 1 ? 'every night' : `every ${showCount(retains.retainsEvery)} days`}.`
			]
		};
	},
	mailboxes
);
