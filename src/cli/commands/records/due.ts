import { readDate, showDate } from '../../../core/calendar.ts';
import { ACTION_WORDS } from '../../../core/retention/sentences.ts';
import { showBytes, showMessages } from '../../../core/weigh/units.ts';
import { dueItems, listDue } from '$lib/server/retention/index.ts';
import { requireMailbox } from '$lib/server/mail/index.ts';
import { command, readNumber, wrongWords } from '../../command.ts';

/* `due`: what is due to be archived, destroyed or reviewed, and when. */
command<{ until?: string; mailbox?: string; items?: boolean; limit: string }>(
	'due',
	'show mail that is due, now or later',
	(c) =>
		c
			.option('--until <date>', 'up to that day; without it, two years ahead')
			.option('--mailbox <name>', 'one mailbox')
			.option('--items', 'message by message')
			.option('--limit <n>', 'messages to show', '1000'),
	async (context, { until, mailbox: name, items, limit }) => {
		const day = until === undefined ? undefined : readDate(until);
		if (until !== undefined && day === undefined) throw wrongWords(`"${until}" is no date; write 2026-12-01`);
		const mailboxId = name === undefined ? undefined : (await requireMailbox(context, name)).id;
		const lines = await listDue(context, { mailboxId, until: day, daily: day !== undefined });
		const found = items
			? await dueItems(context, { mailboxId, until: day, limit: readNumber('--limit', limit, 1_000_000) })
			: undefined;
		const due = lines.map(({ date, disposition, series, terms, mailbox, folder, messages, bytes }) => ({
			date,
			disposition,
			series,
			terms,
			mailbox,
			folder,
			messages,
			bytes
		}));
		return {
			result: {
				due,
				...(found && {
					items: found.items.map(({ id, messageId, trigger, dueOn, disposition, subject }) => ({
						id,
						messageId,
						trigger,
						date: dueOn,
						disposition,
						subject
					}))
				})
			},
			lines: [
				...(due.length === 0 ? ['Nothing is due, nor will be.'] : []),
				...due.map(
					({ date, disposition, series, terms, mailbox, folder, messages, bytes }) =>
						`${date.length > 7 ? showDate(date) : date}  ${ACTION_WORDS[disposition]}  ${showMessages(messages)} (${showBytes(bytes)})  ${mailbox}: ${folder}  ${series || terms}`
				),
				...(found?.items ?? []).map(
					({ id, dueOn, disposition, subject, triggerWords }) =>
						`${id}  ${showDate(dueOn)}  ${ACTION_WORDS[disposition]}  (${triggerWords})  ${subject.slice(0, 70)}`
				)
			]
		};
	}
);
