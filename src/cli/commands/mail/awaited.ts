import { showDate } from '../../../core/calendar.ts';
import { awaitAnswer, listAwaited } from '$lib/server/desk/index.ts';
import { command, readNumber, wrongWords } from '../../command.ts';

command<{ mailbox?: string; message?: string[]; until?: string; because?: string }>(
	'awaited',
	'list the threads whose answers are awaited; with --message, archive one until it is answered',
	(c) =>
		c
			.option('--mailbox <name>', 'mailbox; without it, all')
			.option('--message <number...>', 'messages of one thread, as "find --json" gives them')
			.option('--until <date>', 'the day on which it comes back without an answer')
			.option('--because <reason>', 'why it is awaited'),
	async (context, { mailbox, message, until, because }) => {
		if (message === undefined) {
			if (until !== undefined || because !== undefined) throw wrongWords('--until and --because belong to --message');
			const found = await listAwaited(context, { mailbox });
			return {
				result: found,
				lines:
					found.length === 0
						? ['No answer is awaited.']
						: found.map(
								({ id, mailbox: of, subject, who, since, until: day }) =>
									`${String(id).padStart(5)}  ${subject} (${who}, ${of}), since ${showDate(since)}${day ? `, back on ${showDate(day)}` : ''}`
							)
			};
		}
		const ids = message.map((one) => readNumber('--message', one, Number.MAX_SAFE_INTEGER));
		const decided = await awaitAnswer(context, { ids, until, because });
		const sentences = decided.flatMap((one) => one.sentences);
		return {
			result: {
				dockets: decided.map(({ docket }) => docket),
				messages: decided.reduce((n, one) => n + one.messages, 0)
			},
			lines: [...sentences, 'It comes back when it is answered.']
		};
	}
);
