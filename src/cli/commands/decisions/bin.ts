import { DESTROY_WORD } from '../../../core/docket/confirmation.ts';
import { showBytes, showCount, showMessages } from '../../../core/weigh/units.ts';
import { listBin, prepareEmptying, setClearing } from '$lib/server/archive/index.ts';
import { carryOut, discardDocket, isApprovalDemanded, readCertificate } from '$lib/server/docket/index.ts';
import { requireMailbox } from '$lib/server/mail/index.ts';
import { changing, command, group, leftLines, outcomeLines, readNumber, wrongWords } from '../../command.ts';

/* `bin`: deleted mail, until it is destroyed. */
const bin = group('bin', 'look at the bin of a mailbox, empty it, set how long it keeps');

command<{ mailbox: string; limit: string }>(
	'list',
	'list the bin, the mail that falls due next first',
	(c) => c.requiredOption('--mailbox <name>', 'mailbox').option('--limit <n>', 'messages to show', '100'),
	async (context, { mailbox, limit }) => {
		const { id } = await requireMailbox(context, mailbox);
		const { items, messages, bytes, due, dueTomorrow } = await listBin(context, {
			mailboxId: id,
			limit: readNumber('--limit', limit, 1_000_000)
		});
		return {
			result: {
				messages,
				bytes,
				due,
				dueTomorrow,
				items: items.map(({ id, subject, fromAddress, binnedOn, daysLeft, origin, bytes }) => ({
					id,
					subject,
					from: fromAddress,
					binnedOn,
					daysLeft,
					origin,
					bytes
				}))
			},
			lines: [
				`${showMessages(messages)} in the bin (${showBytes(bytes)}); ${showCount(due.messages)} have been there for all their days, ${showCount(dueTomorrow.messages)} more tomorrow.`,
				...items.map(
					({ id, subject, daysLeft, origin }) =>
						`${id}  ${daysLeft} ${daysLeft === 1 ? 'day' : 'days'} left  ${origin ?? ''}  ${subject.slice(0, 70)}`
				)
			]
		};
	},
	bin
);

command<{ mailbox: string; onlyDue?: boolean; confirm?: string; dryRun?: boolean }>(
	'empty',
	'destroy the mail in the bin for good; leaves a certificate',
	(c) =>
		c
			.requiredOption('--mailbox <name>', 'mailbox')
			.option('--only-due', 'only mail whose days are over')
			.option('--confirm <mailbox>', 'name of the mailbox, asked for above the set number')
			.option('--dry-run', 'only say what would be destroyed'),
	async (context, { mailbox: name, onlyDue = false, confirm, dryRun }) => {
		const mailbox = await requireMailbox(context, name);
		const draft = await prepareEmptying(context, { mailboxId: mailbox.id, onlyDue });
		const left = draft.lines.flatMap((line) => line.left);
		// an interrupted docket goes on under its number
		const goesOn = draft.state === 'carrying-out';
		if (dryRun || (draft.messages === 0 && !goesOn)) {
			if (!goesOn) await discardDocket(context, { id: draft.id });
			return {
				result: { docket: null, messages: draft.messages, bytes: draft.bytes, left, carriedOut: false },
				lines: [
					`Would destroy ${showMessages(draft.messages)} (${showBytes(draft.bytes)}) for good. Nothing was done.`,
					...leftLines(left)
				]
			};
		}
		// typing `bin empty` names in so many words what is destroyed
		const outcome = await carryOut(context, {
			id: draft.id,
			...(goesOn ? {} : { expected: draft }),
			confirm: confirm ?? DESTROY_WORD
		}).catch(async (error: unknown) => {
			// a docket that waits for a second person stays for them to approve
			if (!goesOn && !(await isApprovalDemanded(context)))
				await discardDocket(context, { id: draft.id }).catch(() => {});
			throw error;
		});
		const certificate = await readCertificate(context, { docketId: draft.id, limit: 0 });
		return {
			result: {
				docket: outcome.docket,
				messages: outcome.messages,
				bytes: outcome.bytes,
				left: outcome.left,
				certificate: certificate.id,
				carriedOut: outcome.finished
			},
			lines: outcomeLines('Destroyed', outcome),
			ok: outcome.finished
		};
	},
	bin
);

changing<{ mailbox: string; days?: string; nightly?: string; confirmAbove?: string }>(
	'set',
	'set how long deleted mail stays, and whether due mail is destroyed every night',
	(c) =>
		c
			.requiredOption('--mailbox <name>', 'mailbox')
			.option('--days <n>', 'days for which deleted mail can be restored')
			.option('--nightly <on|off>', 'destroy due mail every night; the first time it asks')
			.option('--confirm-above <n>', 'destroying more messages wants the name of the mailbox'),
	async (context, { mailbox, days, nightly, confirmAbove }) => {
		if (nightly !== undefined && nightly !== 'on' && nightly !== 'off') throw wrongWords('--nightly takes on or off');
		const set = await setClearing(context, {
			mailbox,
			binDays: days === undefined ? undefined : readNumber('--days', days, 3650),
			emptiesBin: nightly === undefined ? undefined : nightly === 'on',
			confirmAbove: confirmAbove === undefined ? undefined : readNumber('--confirm-above', confirmAbove, 1_000_000)
		});
		return {
			result: {
				mailbox: set.name,
				binDays: set.binDays,
				nightly: set.emptiesBin,
				confirmAbove: set.confirmAbove
			},
			lines: [
				`${set.name}: deleted mail stays for ${showCount(set.binDays)} days; due mail ${set.emptiesBin ? 'is destroyed every night' : 'stays until somebody empties the bin'}.`
			]
		};
	},
	bin
);
