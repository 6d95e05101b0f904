import { LEFT_REASONS } from '../../../core/docket/left.ts';
import { showDate } from '../../../core/calendar.ts';
import { showBytes, showCount, showMessages } from '../../../core/weigh/units.ts';
import { runSchedule } from '$lib/server/retention/index.ts';
import { command } from '../../command.ts';

/* `run-schedule`: the scheduled run by the retention schedule. */
command<{ mailbox?: string; asOf?: string; dryRun?: boolean }>(
	'run-schedule',
	'prepare dockets of due mail, and carry them out where the scheduled run is automatic',
	(c) =>
		c
			.option('--mailbox <name>', 'one mailbox')
			.option('--as-of <date>', 'run as on that day; a future day only with --dry-run')
			.option('--dry-run', 'only show what it would do, also where it is switched off'),
	async (context, { mailbox, asOf, dryRun = false }) => {
		const run = await runSchedule(context, { mailbox, asOf, dryRun, always: true });
		return {
			result: run,
			lines: [
				`As of ${showDate(run.asOf)}: ${showCount(run.archived)} ${dryRun ? 'would be ' : ''}archived, ${showCount(run.destroyed)} ${dryRun ? 'would be ' : ''}destroyed.`,
				...run.dockets.map(
					({ docket, mailbox, what, messages, bytes, asks }) =>
						`${mailbox}: ${what} ${showMessages(messages)} (${showBytes(bytes)})${docket === undefined ? '' : `, docket ${docket}`}${!dryRun && asks ? '; it waits to be carried out' : ''}.`
				),
				...run.left.map(({ reason, messages }) => `  ${showMessages(messages)} left: ${LEFT_REASONS[reason]}`),
				...(dryRun ? ['That is what it would do. Nothing was done.'] : [])
			]
		};
	}
);
