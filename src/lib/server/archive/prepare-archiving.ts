import type { Layout } from '../../../core/archive/layout.ts';
import { type CalendarDate, readDate } from '../../../core/calendar.ts';
import {
	checkedQuery,
	type Mailbox,
	type MailboxRef,
	requireFolder,
	requireMailbox,
	requireMailboxes
} from '../mail/index.ts';
import {
	decide,
	type Decided,
	type DocketView,
	draftOf,
	type LineSums,
	type Scope,
	tryDecision
} from '../docket/index.ts';
import { type Context, defineUseCase, layout, mailboxIds, mailboxRef, text, today } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import { Refusal } from '../refusal.ts';
import Joi from 'joi';

/** The mail to be archived. */
export interface ArchivingInput {
	mailbox: MailboxRef;
	/** Cutoff date: mail received before it. */
	before?: CalendarDate | undefined;
	/** Path of a folder, with its subfolders; undefined: all folders. */
	folder?: string | undefined;
	/** Paths of folders that are left out, with their subfolders; only without a folder. */
	without?: string[] | undefined;
	/** Whether flagged mail stays. */
	leavesFlagged?: boolean | undefined;
	/** Instead of a cutoff date and a folder: the mail found by this search. */
	query?: string | undefined;
	/** The search in words. */
	label?: string | undefined;
	/** The layout; undefined: the mailbox's. */
	layout?: Layout | undefined;
}

async function archivingLine(context: Context, mailbox: Mailbox, input: ArchivingInput): Promise<Decided> {
	const options = input.leavesFlagged ? { leavesFlagged: true } : {};
	const line = (scope: Scope): Decided => ({ decision: 'archive', options, scope });
	if (input.query !== undefined) {
		checkedQuery(input.query, { today: today(context) });
		return line({ kind: 'query', query: input.query, label: input.label ?? `found by ${input.query}` });
	}
	const before = readDate(input.before ?? '');
	if (!before)
		throw new Refusal('bad-input', `"${input.before ?? ''}" is no date; write it as 2024-03-01. Nothing was done.`);
	if (!input.folder) {
		const out: { path: string; ids: number[] }[] = [];
		for (const path of input.without ?? []) out.push(await requireFolder(context, mailbox, path));
		return line({
			kind: 'before',
			before,
			folderIds: undefined,
			folderPath: undefined,
			...(out.length > 0 ? { without: out.flatMap(({ ids }) => ids), withoutPaths: out.map(({ path }) => path) } : {})
		});
	}
	const { path, ids } = await requireFolder(context, mailbox, input.folder);
	return line({ kind: 'before', before, folderIds: ids, folderPath: path });
}

/** Drafts a docket that archives. @throws Refusal */
export async function prepareArchiving(context: Context, input: ArchivingInput): Promise<DocketView> {
	const mailbox = await requireMailbox(context, input.mailbox);
	return draftOf(context, mailbox, { lines: [await archivingLine(context, mailbox, input)], layout: input.layout });
}

/** Puts archiving on this person's open docket. @throws Refusal */
export async function decideArchiving(context: Context, input: ArchivingInput): Promise<DocketView> {
	const mailbox = await requireMailbox(context, input.mailbox);
	const line = await archivingLine(context, mailbox, input);
	return decide(context, { mailboxId: mailbox.id, line, layout: input.layout });
}

/**
 * Puts archiving old mail on this person's docket of each selected mailbox that has some; a mailbox that archives
 * nothing is left out.
 *
 * @param input.mailboxIds undefined: all mailboxes
 * @throws Refusal, and then nothing is drafted
 */
export async function decideArchivingTogether(
	context: Context,
	input: { mailboxIds?: number[] | undefined; before: CalendarDate; leavesFlagged?: boolean | undefined }
): Promise<DocketView[]> {
	const { mailboxIds: several, ...wish } = input;
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const dockets: DocketView[] = [];
		for (const mailbox of await requireMailboxes(within, several)) {
			if (!mailbox.archives) continue;
			const line = await archivingLine(within, mailbox, { mailbox: mailbox.id, ...wish });
			if ((await tryDecision(within, mailbox, line)).messages === 0) continue;
			dockets.push(await decide(within, { mailboxId: mailbox.id, line }));
		}
		if (dockets.length === 0)
			throw new Refusal(
				'not-possible',
				'These mailboxes have no mail before that date to archive. Nothing was drafted.'
			);
		return dockets;
	});
}

/** Puts arranging all archived mail by another layout on the docket. @throws Refusal */
export async function prepareArranging(
	context: Context,
	input: { mailbox: MailboxRef; layout?: Layout | undefined }
): Promise<DocketView> {
	const mailbox = await requireMailbox(context, input.mailbox);
	return draftOf(context, mailbox, {
		lines: [{ decision: 'arrange', options: {}, scope: { kind: 'archived' } }],
		layout: input.layout,
		onSlip: true
	});
}

/** Counts what archiving would do; leaves no draft. @throws Refusal */
export async function tryArchiving(context: Context, input: ArchivingInput): Promise<Decided & LineSums> {
	const mailbox = await requireMailbox(context, input.mailbox);
	return tryDecision(context, mailbox, await archivingLine(context, mailbox, input));
}

const archivingInput = () =>
	Joi.object({
		mailbox: mailboxRef.required(),
		before: text,
		folder: text,
		without: Joi.array().items(text).max(1_000),
		leavesFlagged: Joi.boolean(),
		query: text,
		label: text,
		layout
	}).required();

/** The use cases of this file. */
export const prepareArchivingUseCases = [
	defineUseCase({
		name: 'prepareArchiving',
		input: archivingInput,
		thread: 'writer',
		right: 'administrator',
		run: prepareArchiving
	}),
	defineUseCase({
		name: 'prepareArranging',
		input: () => Joi.object({ mailbox: mailboxRef.required(), layout: layout }).required(),
		thread: 'writer',
		right: 'administrator',
		run: prepareArranging
	}),
	defineUseCase({
		name: 'decideArchiving',
		input: archivingInput,
		thread: 'writer',
		right: 'administrator',
		run: decideArchiving
	}),
	defineUseCase({
		name: 'decideArchivingTogether',
		input: () => Joi.object({ mailboxIds, before: text.required(), leavesFlagged: Joi.boolean() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: decideArchivingTogether
	})
] as const;
