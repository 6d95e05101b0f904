import { daysAfter } from '../../../core/calendar.ts';
import { findRole, listMailboxes, type Mailbox } from '../mail/index.ts';
import { type Decided, carryOutScheduled, tryDecision } from '../docket/index.ts';
import { type Context, today } from '../context/index.ts';
import { doEach } from '../do-each.ts';

/** The result of a scheduled run for a mailbox's junk. */
export interface JunkCleared {
	mailboxId: number;
	mailbox: string;
	messages: number;
	docket: number;
	/** Whether a person has to carry the docket out. */
	asks: boolean;
}

/* Name of the dockets that clear junk. */
const CLEARED_JUNK = 'Junk past its days';

/* The line that moves junk past its days into the bin; undefined without a junk folder. */
async function junkLine(context: Context, mailbox: Mailbox): Promise<Decided | undefined> {
	const folder = await findRole(context.db, mailbox.id, 'junk');
	if (!folder) return undefined;
	return {
		decision: 'delete',
		options: {},
		scope: {
			kind: 'lots',
			by: 'folder',
			keys: [String(folder.id)],
			withoutKeys: [],
			without: [],
			query: `before:${daysAfter(today(context), -mailbox.junkDays)}`,
			folderIds: undefined,
			on: today(context),
			label: `in ${folder.path}, received more than ${mailbox.junkDays} days ago`
		}
	};
}

/** How much junk is past its days for the next scheduled run; none if that is switched off. */
export async function junkPastItsDays(context: Context, mailbox: Mailbox): Promise<number> {
	const line = mailbox.clearsJunk ? await junkLine(context, mailbox) : undefined;
	return line ? (await tryDecision(context, mailbox, line)).messages : 0;
}

/** Moves junk past its days into the bin, if that is switched on; the first time, a person is asked. */
export async function clearJunk(context: Context): Promise<JunkCleared[]> {
	const cleared: JunkCleared[] = [];
	const clear = async (mailbox: Mailbox) => {
		const line = (await junkPastItsDays(context, mailbox)) > 0 ? await junkLine(context, mailbox) : undefined;
		const done = line && (await carryOutScheduled(context, mailbox, { name: CLEARED_JUNK, lines: [line] }));
		if (done)
			cleared.push({
				mailboxId: mailbox.id,
				mailbox: mailbox.name,
				messages: done.docket.messages,
				docket: done.docket.id,
				asks: done.asks
			});
	};
	await doEach(
		context,
		(await listMailboxes(context.db)).map((mailbox) => ({ name: mailbox.name, work: () => clear(mailbox) }))
	);
	return cleared;
}
