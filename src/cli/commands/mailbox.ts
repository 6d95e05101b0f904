import { showCount } from '../../core/weigh/units.ts';
import { setClearing } from '$lib/server/work/bin.ts';
import { changing, group, readNumber } from '../command.ts';

/* `mailbox`: what is set for a mailbox beside its quota, its bin and its archive. */
const mailboxes = group('mailbox', 'set the addresses of a mailbox and what is aimed at in its inbox');

changing<{ address?: string[]; inboxAim?: string }>(
	'set <mailbox>',
	'set what is given',
	(c) =>
		c
			.option('--address <address...>', 'addresses under which it is written to')
			.option('--inbox-aim <n>', 'so many messages in the inbox need no scrolling'),
	async (context, { address, inboxAim }, mailbox = '') => {
		const set = await setClearing(context, {
			mailbox,
			addresses: address,
			inboxAim: inboxAim === undefined ? undefined : readNumber('--inbox-aim', inboxAim, 1_000_000)
		});
		return {
			result: { mailbox: set.name, addresses: set.addresses, inboxAim: set.inboxAim },
			lines: [
				`${set.name} is written to as ${set.addresses.join(', ') || 'nobody knows what'}; ${showCount(set.inboxAim)} messages in the inbox are aimed at.`
			]
		};
	},
	mailboxes
);
