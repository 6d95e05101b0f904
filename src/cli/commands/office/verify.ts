import { showBytes, showCount, showMessages } from '../../../core/weigh/units.ts';
import { clockDoubt, confirmClock, doubtInWords } from '$lib/server/ledger/index.ts';
import { rereadMail } from '$lib/server/mail/index.ts';
import { compact, repairArchive, verify } from '$lib/server/backup/index.ts';
import { damagedLines } from '../../damaged.ts';
import { command } from '../../command.ts';

command<object>(
	'verify',
	'check every stored message, the ledger and the summaries',
	(c) => c,
	async (context) => {
		const result = await verify(context);
		const { messages, bytes, storedBytes, damaged, checked, ledger, weightsDiffering, certificatesDiffering, ok } =
			result;
		const contents = damaged.filter(({ what }) => what === 'content').length;
		return {
			result,
			ok,
			lines: [
				`${showMessages(messages)} checked (${showBytes(bytes)}, stored as ${showBytes(storedBytes)}): ${contents === 0 ? 'all as they came in' : `${showCount(contents)} DAMAGED`}.`,
				`Rows of ${showCount(checked.messages)} messages and ${showCount(checked.items)} items compared with their sums.`,
				`Ledger: ${showCount(ledger.lines)} lines, ${ledger.ok ? 'unbroken' : `BROKEN at line ${ledger.brokenAt}`}; last hash ${ledger.head}.`,
				`Summaries: ${weightsDiffering === 0 ? 'agree with a fresh count' : `${weightsDiffering} rows DIFFER from a fresh count`}.`,
				`Certificates: ${certificatesDiffering.length === 0 ? 'as the ledger has them' : `those of dockets ${certificatesDiffering.join(', ')} are NOT what the ledger says`}.`,
				...damagedLines(damaged)
			]
		};
	}
);

command<{ from?: string }>(
	'repair',
	'repair damaged messages from a backup or from mail; what can be made anew is made anew',
	(c) => c.option('--from <path>', 'a backup, or mail as it can be imported; without it, only what is here is used'),
	async (context, { from }) => {
		const { repaired, left, because, finished } = await repairArchive(context, { from });
		return {
			result: { repaired, left, because, finished },
			ok: finished && left.length === 0,
			lines: [
				...(because ? [because] : [`${showCount(repaired)} repaired, ${showCount(left.length)} still damaged.`]),
				...damagedLines(left)
			]
		};
	}
);

command<{ confirm?: boolean }>(
	'clock',
	'show whether Kovrel trusts the clock of this machine with destroying',
	(c) => c.option('--confirm', 'say that the clock is right'),
	async (context, { confirm }) => {
		if (confirm) await confirmClock(context);
		const doubt = await clockDoubt(context);
		return {
			result: { now: context.now().toISOString(), last: doubt?.last ?? null, isTrusted: !doubt },
			ok: !doubt,
			lines: [doubt ? `${doubtInWords(context, doubt)} Say so with --confirm.` : 'The clock is trusted.']
		};
	}
);

command<object>(
	'compact',
	'return the space freed by destroying to the disk; it happens by itself at night, except for a data file from before that was possible',
	(c) => c,
	async (context) => {
		const { returned, fileBytes, freeBytes } = await compact(context);
		return {
			result: { returned, fileBytes, freeBytes },
			lines: [`${showBytes(returned)} given back to the disk; the data file has ${showBytes(fileBytes)}.`]
		};
	}
);

command<object>(
	'reread',
	'read the stored mail again after an update; its bytes stay as they are',
	(c) => c,
	async (context) => {
		const { messages, finished } = await rereadMail(context);
		return { result: { messages, finished }, ok: finished, lines: [`${showMessages(messages)} read again.`] };
	}
);
