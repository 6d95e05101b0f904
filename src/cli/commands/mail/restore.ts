import { showCount, showMessages } from '../../../core/weigh/units.ts';
import { restore } from '$lib/server/find/index.ts';
import { changing, leftLines, readIds } from '../../command.ts';

changing<object>(
	'restore <id...>',
	'restore archived messages to the folders they came from',
	(c) => c,
	async (context, _options, ...words) => {
		const { restored, left, dockets, unknown } = await restore(context, { ids: readIds(words) });
		return {
			result: { restored, left, dockets, unknown },
			lines: [
				`Restored ${showMessages(restored)}.`,
				...leftLines(left),
				...(unknown > 0 ? [`  ${showCount(unknown)} of the numbers ${unknown === 1 ? 'is' : 'are'} no message`] : [])
			],
			ok: unknown === 0 && (restored > 0 || left.length === 0)
		};
	}
);
