import { showBytes, showCount, showMessages } from '../../../core/weigh/units.ts';
import { rereadMail } from '$lib/server/mail/index.ts';
import { verifyArchive } from '$lib/server/backup/index.ts';
import { command } from '../../command.ts';

command<object>(
	'verify',
	'check every stored message, the ledger and the summaries',
	(c) => c,
	async (context) => {
		const result = await verifyArchive(context);
		const { messages, bytes, storedBytes, damaged, ledger, weightsDiffering, certificatesDiffering, ok } = result;
		return {
			result,
			ok,
			lines: [
				`${showMessages(messages)} checked (${showBytes(bytes)}, stored as ${showBytes(storedBytes)}): ${damaged.length === 0 ? 'all as they came in' : `${damaged.length} DAMAGED (contents ${damaged.slice(0, 20).join(', ')})`}.`,
				`Ledger: ${showCount(ledger.lines)} lines, ${ledger.ok ? 'unbroken' : `BROKEN at line ${ledger.brokenAt}`}; last hash ${ledger.head}.`,
				`Summaries: ${weightsDiffering === 0 ? 'agree with a fresh count' : `${weightsDiffering} rows DIFFER from a fresh count`}.`,
				`Certificates: ${certificatesDiffering.length === 0 ? 'as the ledger has them' : `those of dockets ${certificatesDiffering.join(', ')} are NOT what the ledger says`}.`
			]
		};
	}
);

command<object>(
	'reread',
	'read again what an earlier Kovrel has read; the bytes stay as they are',
	(c) => c,
	async (context) => {
		const { messages, finished } = await rereadMail(context);
		return { result: { messages, finished }, ok: finished, lines: [`${showMessages(messages)} read again.`] };
	}
);
