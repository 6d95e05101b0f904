import { showDate } from '../../../core/calendar.ts';
import { showCount, showMessages } from '../../../core/weigh/units.ts';
import { requireMailbox } from '$lib/server/mail/index.ts';
import { askReviews, listedReviews } from '$lib/server/people/index.ts';
import { changing, command, group } from '../../command.ts';
import { table } from '../../terminal.ts';

/* `review`: owners look through what would go from their mailboxes, before a day. */
const reviews = group('review', 'ask owners to review what would go from their mailboxes');

changing<{ mailbox: string[]; until: string; because: string }>(
	'ask',
	'ask owners to review the mail that is due; none of it is archived or destroyed before the day',
	(c) =>
		c
			.requiredOption('--mailbox <name...>', 'mailboxes')
			.requiredOption('--until <date>', 'the day')
			.requiredOption('--because <reason>', 'why, for the owner'),
	async (context, { mailbox: names, until, because }) => {
		const mailboxIds: number[] = [];
		for (const name of names) mailboxIds.push((await requireMailbox(context, name)).id);
		const asked = await askReviews(context, { mailboxIds, until, because });
		return {
			result: { asked },
			lines: asked.map(({ mailbox, owner, messages }) => `${owner}: ${showMessages(messages)} of ${mailbox}.`)
		};
	},
	reviews
);

command<object>(
	'list',
	'list reviews with the counts kept, changed and left untouched',
	(c) => c,
	async (context) => {
		const found = (await listedReviews(context)).map((review) => ({
			...review,
			untouched: review.messages - review.kept - review.changed
		}));
		return {
			result: { reviews: found },
			lines: [
				`${showCount(found.length)} reviews.`,
				...table(
					found.map(({ mailbox, owner, until, answeredOn, kept, changed, untouched }) => [
						mailbox,
						owner,
						`by ${showDate(until)}`,
						answeredOn ? 'reviewed' : 'unanswered',
						`${showCount(kept)} kept, ${showCount(changed)} changed, ${showCount(untouched)} untouched`
					])
				)
			]
		};
	},
	reviews
);
