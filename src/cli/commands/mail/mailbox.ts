import { readBytes, showBytes, showCount } from '../../../core/weigh/units.ts';
import { RETAINING, setRetaining } from '$lib/server/retention/index.ts';
import { weighClasses } from '$lib/server/standing/index.ts';
import { setClearing } from '$lib/server/archive/index.ts';
import { changing, group, oneOf, readNumber, wrongWords } from '../../command.ts';

/* `mailbox`: a mailbox and its settings. */
const mailboxes = group('mailbox', 'set the addresses of a mailbox and what is aimed at in its inbox');

function readQuota(text: string): [string, number | null] {
	const [, word = '', size = ''] = /^(.+)=(.+)$/.exec(text) ?? [];
	const bytes = size === 'none' ? null : readBytes(size);
	if (word === '' || bytes === undefined)
		throw wrongWords(`--quota takes a class and a size: working=500MB, not "${text}"`);
	return [word, bytes];
}

changing<{
	address?: string[];
	inboxAim?: string;
	retention?: string;
	every?: string;
	seen?: string;
	workingQuota?: string;
	quota?: string[];
}>(
	'set <mailbox>',
	'set the addresses, aim, retention and class quotas of a mailbox',
	(c) =>
		c
			.option('--address <address...>', 'addresses under which it is written to')
			.option('--inbox-aim <n>', 'so many messages in the inbox need no scrolling')
			.option('--retention <mode>', 'off; ask: dockets of due mail wait for a person; do: automatic')
			.option('--every <days>', 'days between scheduled runs')
			.option('--seen <n>', 'how many messages "run-schedule --dry-run" says are due, to switch retention on')
			.option(
				'--quota <class=size...>',
				'what mail of a class may weigh here: working=500MB; "=none": as the class says'
			)
			.option('--working-quota <size>', 'the same for the class "working"'),
	async (context, { address, inboxAim, retention, every, seen, quota = [], workingQuota }, mailbox = '') => {
		const quotas = Object.fromEntries([
			...quota.map(readQuota),
			...(workingQuota === undefined ? [] : [readQuota(`working=${workingQuota}`)])
		]);
		const retains = await setRetaining(context, {
			mailbox,
			mode: retention === undefined ? undefined : oneOf('--retention', RETAINING, retention),
			every: every === undefined ? undefined : readNumber('--every', every, 366),
			seen: seen === undefined ? undefined : readNumber('--seen', seen, 100_000_000),
			quotas
		});
		const set = await setClearing(context, {
			mailbox,
			addresses: address,
			inboxAim: inboxAim === undefined ? undefined : readNumber('--inbox-aim', inboxAim, 1_000_000)
		});
		const classes = await weighClasses(context.db, set.id);
		return {
			result: {
				mailbox: set.name,
				addresses: set.addresses,
				inboxAim: set.inboxAim,
				retention: retains.retains,
				every: retains.retainsEvery,
				workingQuotaBytes: classes.find(({ word }) => word === 'working')?.quotaBytes,
				quotas: classes.map(({ word, quotaBytes, bytes }) => ({ class: word, quotaBytes, bytes }))
			},
			lines: [
				`${set.name} is written to as ${set.addresses.join(', ') || 'nobody knows what'}; ${showCount(set.inboxAim)} messages in the inbox are aimed at.`,
				`Retention: ${retains.retains}, ${retains.retainsEvery === 1 ? 'every night' : `every ${showCount(retains.retainsEvery)} days`}.`,
				...classes.flatMap(({ name, quotaBytes, bytes }) =>
					quotaBytes === undefined
						? []
						: [`Mail of the class "${name}" may weigh ${showBytes(quotaBytes)}; it weighs ${showBytes(bytes)}.`]
				)
			]
		};
	},
	mailboxes
);
