import { showMessages } from '../../../core/weigh/units.ts';
import { backUp, backupWords } from '$lib/server/backup/index.ts';
import { letDaysPass, runNight } from '$lib/server/process/index.ts';
import { command, group, readNumber } from '../../command.ts';

/* `days`: daily tasks, and the passing of days in a demo. */
const days = group('days', 'do what is done every night; let days pass in a demo');

command<object>(
	'night',
	'run the nightly work now: junk, bins, digests, retention, the backup',
	(c) => c,
	async (context) => {
		// no server runs beside the terminal, so the jobs that follow are done here
		let folder: string | undefined;
		const follow: typeof context.follow = async (_db, { about }) => {
			if (about.kind === 'backup') folder = about.folder;
		};
		const night = await runNight({ ...context, follow });
		const backup = folder === undefined ? undefined : await backUp(context, { out: folder });
		return {
			result: { ...night, ...(backup && { backup }) },
			lines: [
				...night.returned.map(
					({ mailbox, messages }) => `${mailbox}: ${showMessages(messages)} came back, as awaited.`
				),
				...(night.outgoing.sent > 0 ? [`Sent ${showMessages(night.outgoing.sent)} whose time had come.`] : []),
				...(night.outgoing.failed > 0 ? [`Could not send ${showMessages(night.outgoing.failed)}: see Outgoing.`] : []),
				...night.bins.map(
					({ mailbox, messages, asks }) =>
						`${mailbox}: ${showMessages(messages)} ${asks ? 'in the bin wait for you' : 'destroyed'}.`
				),
				...night.junk.map(
					({ mailbox, messages, asks }) =>
						`${mailbox}: ${showMessages(messages)} ${asks ? 'of junk wait for you' : 'of junk put into the bin'}.`
				),
				...night.digests.map(
					({ mailbox, day, messages }) => `${mailbox}: digest of ${day}, ${showMessages(messages)}.`
				),
				...night.retention.map(
					({ mailbox, what, messages, asks }) =>
						`${mailbox}: ${showMessages(messages)} ${asks ? `wait for you to ${what} them` : `${what === 'archive' ? 'archived' : 'destroyed'} by the schedule`}.`
				),
				...(backup ? [backupWords(backup)] : []),
				'The night is done.'
			]
		};
	},
	days
);

command<object>(
	'pass <days>',
	'let days pass, with their mail and nightly work; only with stand-ins',
	(c) => c,
	async (context, _options, number = '') => {
		const passed = await letDaysPass(context, { days: readNumber('days', number, 366) });
		return { result: passed, lines: [`It is ${passed.today}; ${showMessages(passed.delivered)} came in.`] };
	},
	days
);
