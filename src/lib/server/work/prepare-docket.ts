import type { Layout } from '../../../core/archive/layout.ts';
import { type CalendarDate, readDate } from '../../../core/calendar.ts';
import { docketSentence, type Decision } from '../../../core/docket/effects.ts';
import { inTransaction } from '../database/open.ts';
import { frozenByFolder } from '../stores/carrying-out.ts';
import { addDocket, type Docket, type DocketLine, getDocket, listDockets, putDocketState } from '../stores/dockets.ts';
import { findFolder, folderWithBelow } from '../stores/folders.ts';
import { itemsById } from '../stores/items.ts';
import type { Mailbox } from '../stores/mailboxes.ts';
import { countByFolder, countSelection, type FolderSums, type Scope } from '../stores/scopes.ts';
import type { Context } from './context.ts';
import { checkedQuery } from './find.ts';
import { Refusal } from '../refusal.ts';
import { requireMailbox, requireMailboxId } from './mailboxes.ts';

/** A docket as it is shown. */
export interface DocketView extends Docket {
	mailbox: string;
	/** Each line in words. */
	sentences: string[];
}

/** A docket with what it does folder by folder. */
export interface DocketInFull extends DocketView {
	folders: FolderSums[];
}

/** The docket in words. */
export function viewDocket(docket: Docket, mailbox: Mailbox): DocketView {
	const drafted = docket.state === 'drafted';
	return {
		...docket,
		mailbox: mailbox.name,
		sentences: docket.lines.map(({ decision, scope, messages, bytes, folders }) =>
			docketSentence({
				decision,
				// one line: what was really done stands on the docket
				messages: drafted ? messages : docket.messages,
				bytes: drafted ? bytes : docket.bytes,
				folders,
				cutoff: scope.kind === 'before' ? scope.before : undefined,
				label: scope.kind === 'query' ? scope.label : undefined,
				folderPath: scope.kind === 'before' ? scope.folderPath : undefined,
				layout: docket.layout
			})
		)
	};
}

/** The docket with that number. @throws Refusal */
export async function requireDocket({ db }: Context, id: number): Promise<Docket> {
	const docket = await getDocket(db, id);
	if (!docket) throw new Refusal('not-found', `There is no docket ${id}. Nothing was done.`);
	return docket;
}

/** A docket in full: its lines, and its counts folder by folder. */
export async function showDocket(context: Context, input: { id: number }): Promise<DocketInFull> {
	const docket = await requireDocket(context, input.id);
	const mailbox = await requireMailboxId(context, docket.mailboxId);
	const [line] = docket.lines as [DocketLine];
	const folders =
		docket.state === 'drafted'
			? await countByFolder(context.db, docket.mailboxId, line.decision, line.scope)
			: await frozenByFolder(context.db, docket.id);
	return { ...viewDocket(docket, mailbox), folders };
}

/** The docket that is being worked on in a mailbox: the open draft, else the last that was carried out. */
export async function currentDocket(context: Context, input: { mailboxId: number }): Promise<DocketView | undefined> {
	const mailbox = await requireMailboxId(context, input.mailboxId);
	const [open] = await listDockets(context.db, mailbox.id, ['drafted', 'carrying-out', 'taking-back'], 1);
	const docket = open ?? (await listDockets(context.db, mailbox.id, ['carried-out', 'taken-back'], 1))[0];
	return docket && viewDocket(docket, mailbox);
}

/** Dockets of a mailbox that were carried out or begun, the newest first. */
export async function pastDockets(
	context: Context,
	input: { mailboxId: number; limit: number }
): Promise<DocketView[]> {
	const mailbox = await requireMailboxId(context, input.mailboxId);
	const dockets = await listDockets(
		context.db,
		mailbox.id,
		['carrying-out', 'carried-out', 'taking-back', 'taken-back'],
		input.limit
	);
	return dockets.map((docket) => viewDocket(docket, mailbox));
}

async function draft(
	context: Context,
	mailbox: Mailbox,
	decision: Decision,
	scope: Scope,
	layout = mailbox.layout
): Promise<DocketView> {
	return inTransaction(context.db, async (db) => {
		const sums = await countSelection(db, mailbox.id, decision, scope);
		const id = await addDocket(db, {
			mailboxId: mailbox.id,
			at: context.now(),
			who: context.who,
			layout,
			lines: [{ decision, scope, ...sums }]
		});
		return viewDocket((await getDocket(db, id)) as Docket, mailbox);
	});
}

/** What is to be archived. */
export interface ArchivingInput {
	mailbox: string;
	/** Cutoff date: what was received before it. */
	before?: CalendarDate | undefined;
	/** Path of a folder: it and its subfolders; without it, the whole mailbox. */
	folder?: string | undefined;
	/** Instead of a cutoff date and a folder: what this search finds. */
	query?: string | undefined;
	/** What it finds, in words. */
	label?: string | undefined;
	/** Where it goes; without it, as the mailbox is set. */
	layout?: Layout | undefined;
}

async function archivingScope(context: Context, mailbox: Mailbox, input: ArchivingInput): Promise<Scope> {
	if (!mailbox.archives)
		throw new Refusal('not-possible', `${mailbox.name} is set to archive nothing. Nothing was done.`);
	if (input.query !== undefined) {
		checkedQuery(input.query);
		return { kind: 'query', query: input.query, label: input.label ?? `found by ${input.query}` };
	}
	const before = readDate(input.before ?? '');
	if (!before)
		throw new Refusal('bad-input', `"${input.before ?? ''}" is no date; write it as 2024-03-01. Nothing was done.`);
	if (!input.folder) return { kind: 'before', before, folderIds: undefined, folderPath: undefined };
	const folder = await findFolder(context.db, mailbox.id, 'mailbox', input.folder);
	if (!folder) throw new Refusal('not-found', `${mailbox.name} has no folder "${input.folder}". Nothing was done.`);
	return { kind: 'before', before, folderIds: await folderWithBelow(context.db, folder.id), folderPath: folder.path };
}

/** Drafts a docket that archives everything before a cutoff date; nothing happens yet. @throws Refusal */
export async function prepareArchiving(context: Context, input: ArchivingInput): Promise<DocketView> {
	const mailbox = await requireMailbox(context, input.mailbox);
	const scope = await archivingScope(context, mailbox, input);
	return draftAnew(context, mailbox, 'archive', scope, input.layout);
}

/* One open draft a mailbox: a new one takes its place. */
async function draftAnew(...[context, mailbox, ...rest]: Parameters<typeof draft>): Promise<DocketView> {
	return inTransaction(context.db, async (db) => {
		for (const open of await listDockets(db, mailbox.id, ['drafted'], 100))
			await putDocketState(db, open.id, 'dropped');
		return draft({ ...context, db }, mailbox, ...rest);
	});
}

/** Drafts a docket that files all that is archived anew, in another layout. @throws Refusal */
export async function prepareArranging(
	context: Context,
	input: { mailbox: string; layout?: Layout | undefined }
): Promise<DocketView> {
	const mailbox = await requireMailbox(context, input.mailbox);
	return draftAnew(context, mailbox, 'arrange', { kind: 'archived' }, input.layout);
}

/** Counts what archiving would do, and leaves no draft behind. @throws Refusal */
export async function tryArchiving(context: Context, input: ArchivingInput): Promise<Omit<DocketLine, 'id'>> {
	const mailbox = await requireMailbox(context, input.mailbox);
	const scope = await archivingScope(context, mailbox, input);
	return { decision: 'archive', scope, ...(await countSelection(context.db, mailbox.id, 'archive', scope)) };
}

/** Drafts a docket that restores items of one mailbox. */
export async function prepareRestoring(
	context: Context,
	input: { mailboxId: number; ids: number[] }
): Promise<DocketView> {
	return draft(context, await requireMailboxId(context, input.mailboxId), 'restore', { kind: 'items', ids: input.ids });
}

/** The items of a wish to restore, by mailbox; ids that are none are counted. */
export async function itemsByMailbox(
	context: Context,
	ids: readonly number[]
): Promise<{ mailboxes: Map<number, number[]>; unknown: number }> {
	const found = await itemsById(context.db, ids);
	const mailboxes = new Map<number, number[]>();
	for (const { id, mailboxId } of found) mailboxes.set(mailboxId, [...(mailboxes.get(mailboxId) ?? []), id]);
	return { mailboxes, unknown: new Set(ids).size - found.length };
}

/** Drops a draft. @throws Refusal where it is none any more */
export async function dropDocket(context: Context, input: { id: number }): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const docket = await requireDocket({ ...context, db }, input.id);
		if (docket.state !== 'drafted')
			throw new Refusal('not-possible', `Docket ${docket.id} is no draft any more. Nothing was done.`);
		await putDocketState(db, docket.id, 'dropped');
	});
}
