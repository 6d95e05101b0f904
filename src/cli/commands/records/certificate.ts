import { writeFileSync } from 'node:fs';
import { showDate } from '../../../core/calendar.ts';
import { showBytes, showMessages } from '../../../core/weigh/units.ts';
import { exportCertificate, listedCertificates, readCertificate } from '$lib/server/docket/index.ts';
import { command, readNumber } from '../../command.ts';

/* `certificate`: the proof of a destruction. */
command<{ csv?: string; limit: string }>(
	'certificate [docket]',
	'show the certificate of a docket, compared with the ledger; without a number, list them',
	(c) => c.option('--csv <file>', 'write all of it as CSV').option('--limit <n>', 'messages to show', '100'),
	async (context, { csv, limit }, docket) => {
		const most = readNumber('--limit', limit, 1_000_000);
		if (docket === undefined) {
			const certificates = await listedCertificates(context, { limit: most });
			return {
				result: { certificates },
				lines: certificates.map(
					({ docketId, mailbox, madeAt, messages, bytes }) =>
						`Docket ${docketId}, ${madeAt.slice(0, 10)}, ${mailbox}: ${showMessages(messages)} (${showBytes(bytes)})`
				)
			};
		}
		const docketId = readNumber('the docket', docket, 1_000_000_000);
		const certificate = await readCertificate(context, { docketId, limit: most });
		if (csv !== undefined) {
			const parts: Uint8Array[] = [];
			for await (const part of exportCertificate(context, { docketId, format: 'csv' })) parts.push(part);
			writeFileSync(csv, Buffer.concat(parts));
		}
		const { isGenuine } = certificate;
		return {
			result: certificate,
			ok: isGenuine !== false,
			lines: [
				`Certificate of docket ${docketId}, ${certificate.madeAt}: ${showMessages(certificate.messages)} (${showBytes(certificate.bytes)}) of ${certificate.mailbox} destroyed.`,
				`Decided by ${certificate.decidedBy || 'nobody noted'}, carried out by ${certificate.madeBy}.`,
				isGenuine === undefined
					? 'The ledger has no SHA-256 of it.'
					: isGenuine
						? `It is what the ledger says of it: ${certificate.sha256}.`
						: 'It is NOT what the ledger says of it.',
				...certificate.items.map(
					({ itemId, sha256, dueOn, series, version, subject }) =>
						`${itemId}  ${dueOn ? showDate(dueOn) : 'deleted'}  ${series ? `${series} v${version}` : ''}  ${sha256.slice(0, 16)}…  ${subject}`
				),
				...(csv === undefined ? [] : [`Written to ${csv}.`])
			]
		};
	}
);
