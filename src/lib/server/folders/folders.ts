import { readDate, showDate } from '../../../core/calendar.ts';
import { type Followed, followedDetails } from '../../../core/search/renamed.ts';
import type { FolderPlace } from '../../../core/weigh/tree.ts';
import { inTransaction } from '../database/index.ts';
import { Refusal } from '../refusal.ts';
import {
	putNeverArchived,
	ensureFolder,
	findFolder,
	followRename,
	folderWithBelow,
	keepArchiveFoldersInUse,
	type Mailbox,
	type MailboxRef,
	pathNames,
	putFolderPlace,
	removeEmptyFolders,
	requireFolder,
	requireMailbox,
	type Tree,
	yearsOfFolders
} from '../mail/index.ts';
import { appendLedger } from '../ledger/index.ts';
import {
	addPause,
	appliedSettings,
	applySmall,
	endFolderPause,
	noteSettings,
	putFolderRetention
} from '../standing/index.ts';
import { type ArchivedScope, decide, type Decided, type DocketView, type LotsScope } from '../docket/index.ts';
import { type Context, defineUseCase, mailboxRef, text, today } from '../context/index.ts';
import { listLots } from '../lots/index.ts';
import Joi from 'joi';

interface FolderInput {
	mailbox: MailboxRef;
	/** Its path. */
	folder: string;
}

/** A folder of the mailbox, or of its archive. */
interface PlaceInput extends FolderInput {
	/** Undefined: in the mailbox. */
	tree?: Tree | undefined;
}

/* The place of a folder in the ledger's words. */
const inTree = (tree: Tree) => (tree === 'archive' ? { in: 'archive' } : {});

const refuse = (message: string) => new Refusal('bad-input', `${message} Nothing was changed.`);

async function requirePlace(
	context: Context,
	mailbox: Mailbox,
	path: string,
	tree: Tree = 'mailbox'
): Promise<FolderPlace> {
	const found = await findFolder(context.db, mailbox.id, tree, path);
	const whose = tree === 'archive' ? `The archive of ${mailbox.name}` : mailbox.name;
	if (!found) throw new Refusal('not-found', `${whose} has no folder "${path}". Nothing was changed.`);
	return found;
}

/** Creates a folder; an existing one with that name, regardless of case and accents, is returned. @throws Refusal */
export async function makeFolder(context: Context, input: FolderInput): Promise<FolderPlace & { isNew: boolean }> {
	if (pathNames(input.folder).length === 0) throw refuse('A folder needs a name.');
	return inTransaction(context.db, async (db) => {
		const mailbox = await requireMailbox({ ...context, db }, input.mailbox);
		const known = await findFolder(db, mailbox.id, 'mailbox', input.folder);
		if (known) return { ...known, isNew: false };
		const made = await ensureFolder(db, mailbox.id, 'mailbox', input.folder);
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'folder-made',
			details: { mailbox: mailbox.name, folder: made.path }
		});
		return { ...made, isNew: true };
	});
}

/**
 * Renames a folder, or moves it with its subfolders to another path. Items stay in their folders, so it needs no
 * docket. What names it by its path follows.
 *
 * @throws Refusal if that path exists: a docket merges folders
 */
export async function renameFolder(
	context: Context,
	{ tree = 'mailbox', ...input }: PlaceInput & { to: string }
): Promise<FolderPlace & { followed: Followed }> {
	const names = pathNames(input.to);
	const name = names.at(-1);
	if (name === undefined) throw refuse('A folder needs a name.');
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const mailbox = await requireMailbox(within, input.mailbox);
		const folder = await requirePlace(within, mailbox, input.folder, tree);
		if (folder.role) throw refuse(`${folder.path} has a part of its own in the mailbox and keeps its name.`);
		const there = await findFolder(db, mailbox.id, tree, input.to);
		if (there && there.id !== folder.id)
			throw refuse(`There is a folder ${there.path} already. To bring the two together, merge them.`);
		const above = names.slice(0, -1).join('/');
		const parent = above ? await ensureFolder(db, mailbox.id, tree, above) : undefined;
		if (parent && (await folderWithBelow(db, folder.id)).includes(parent.id))
			throw refuse('A folder cannot be put below itself.');
		const path = parent ? `${parent.path}/${name}` : name;
		await putFolderPlace(db, folder, { parentId: parent?.id ?? null, name, path });
		const renamed = { of: 'folder', id: folder.id, mailboxId: mailbox.id, tree, from: folder.path, to: path } as const;
		const followed = await followRename(within, renamed);
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'folder-renamed',
			details: { mailbox: mailbox.name, ...inTree(tree), folder: folder.path, to: path, ...followedDetails(followed) }
		});
		// an empty folder of the archive is removed, as after a docket
		if (tree === 'archive') await keepArchiveFoldersInUse(db, mailbox.id, context.now().toISOString());
		// its new path or name may change its retention
		else if ((await appliedSettings(db, mailbox.id)).settings > 0) {
			await noteSettings(db, mailbox.id);
			await applySmall(within);
		}
		return { ...folder, parentId: parent?.id ?? null, name, path, followed };
	});
}

/** Removes folders that are empty, subfolders included. Restoring mail from the archive creates its folder again. */
export async function removeFolders(
	context: Context,
	input: { mailbox: MailboxRef; folders: string[] }
): Promise<string[]> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const mailbox = await requireMailbox(within, input.mailbox);
		const ids: number[] = [];
		for (const path of input.folders) ids.push((await requirePlace(within, mailbox, path)).id);
		const removed = await removeEmptyFolders(db, mailbox.id, ids, context.now().toISOString());
		if (removed.length === 0) throw refuse('There is mail in these folders, or they have a part of their own.');
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'folder-removed',
			details: { mailbox: mailbox.name, folders: removed }
		});
		return removed;
	});
}

async function folderScope(context: Context, mailbox: Mailbox, path: string, keys?: string[]): Promise<LotsScope> {
	const { ids } = await requireFolder(context, mailbox, path);
	return {
		kind: 'lots',
		by: 'year',
		keys,
		withoutKeys: [],
		without: [],
		query: '',
		folderIds: ids,
		on: today(context),
		label: keys
			? `in ${path}, received in ${keys.map((key) => key || 'no known year').join(', ')}`
			: `in ${path} and below`
	};
}

async function archivedScope(
	{ db }: Context,
	mailbox: Mailbox,
	folder: FolderPlace,
	year?: string
): Promise<ArchivedScope> {
	const ids = await folderWithBelow(db, folder.id);
	if (year === undefined) return { kind: 'archived', folderIds: ids, label: `in ${folder.path} and below` };
	// mail already in that year's folder stays there
	const own = await findFolder(db, mailbox.id, 'archive', `${folder.path}/${year}`);
	return {
		kind: 'archived',
		folderIds: ids.filter((id) => id !== own?.id),
		year,
		label: `in ${folder.path}, received in ${year}`
	};
}

/* Whether a path is another folder's or leads below it. */
async function isWithin({ db }: Context, mailbox: Mailbox, path: string, folder: FolderPlace, tree: Tree) {
	const names = pathNames(path);
	const above = await findFolder(db, mailbox.id, tree, names.slice(0, pathNames(folder.path).length).join('/'));
	return above?.id === folder.id;
}

/**
 * Puts moving all mail of a folder with its subfolders on the docket; within the archive also to a new folder.
 *
 * @throws Refusal
 */
export async function mergeFolder(
	context: Context,
	{ tree = 'mailbox', ...input }: PlaceInput & { into: string }
): Promise<DocketView> {
	const mailbox = await requireMailbox(context, input.mailbox);
	const from = await requirePlace(context, mailbox, input.folder, tree);
	const isArchive = tree === 'archive';
	if (isArchive && pathNames(input.into).length === 0) throw refuse('A folder needs a name.');
	const into = isArchive
		? await findFolder(context.db, mailbox.id, tree, input.into)
		: await requirePlace(context, mailbox, input.into);
	if (await isWithin(context, mailbox, input.into, from, tree))
		throw refuse('A folder cannot be merged into itself, or into one below it.');
	const line: Decided = {
		decision: isArchive ? 'arrange' : 'move',
		options: { folder: into?.path ?? pathNames(input.into).join('/') },
		scope: isArchive ? await archivedScope(context, mailbox, from) : await folderScope(context, mailbox, from.path)
	};
	return decide(context, { mailboxId: mailbox.id, line });
}

/* Creates the folder of each year, closed on its last day: the period of its mail may start then. */
async function closeYears(context: Context, mailbox: Mailbox, path: string, years: readonly string[]): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		for (const year of years) {
			const { id } = await ensureFolder(db, mailbox.id, 'mailbox', `${path}/${year}`);
			await putFolderRetention(db, [id], { closedOn: `${year}-12-31` });
		}
		await noteSettings(db, mailbox.id);
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'retention-set',
			details: {
				folders: years.map((year) => `${mailbox.name}: ${path}/${year}`),
				closed: 'on the last day of its year'
			}
		});
		await applySmall(within);
	});
}

/* The years in which mail of a folder with its subfolders was received. */
async function yearsIn(context: Context, mailbox: Mailbox, folder: FolderPlace, tree: Tree): Promise<string[]> {
	if (tree === 'archive')
		return yearsOfFolders(
			context.db,
			{ mailboxIds: [mailbox.id], states: 'archived' },
			await folderWithBelow(context.db, folder.id)
		);
	const { lots } = await listLots(context, {
		mailboxId: mailbox.id,
		by: 'year',
		folder: folder.path,
		sort: 'label',
		limit: 200
	});
	return lots.map(({ key }) => key).filter(Boolean);
}

/**
 * Puts dividing a folder into a subfolder for each year on the docket.
 *
 * @param input.closes each is closed on the last day of its year, for retention; only in the mailbox, as archived
 *   mail goes by the folder that it came from
 * @throws Refusal
 */
export async function folderPerYear(
	context: Context,
	{ tree = 'mailbox', ...input }: PlaceInput & { closes?: boolean | undefined }
): Promise<DocketView> {
	const mailbox = await requireMailbox(context, input.mailbox);
	const folder = await requirePlace(context, mailbox, input.folder, tree);
	const years = await yearsIn(context, mailbox, folder, tree);
	if (years.length === 0) throw refuse(`There is no mail in ${folder.path} whose year is known.`);
	if (input.closes && tree === 'mailbox') await closeYears(context, mailbox, folder.path, years);
	let docket: DocketView | undefined;
	for (const year of years)
		docket = await decide(context, {
			mailboxId: mailbox.id,
			line: {
				decision: tree === 'archive' ? 'arrange' : 'move',
				options: { folder: `${folder.path}/${year}` },
				scope:
					tree === 'archive'
						? await archivedScope(context, mailbox, folder, year)
						: await folderScope(context, mailbox, folder.path, [year])
			}
		});
	return docket as DocketView;
}

/** Pauses a folder with its subfolders: their mail is not deleted before a day. @throws Refusal */
export async function pauseFolder(
	context: Context,
	input: FolderInput & { until: string; because: string }
): Promise<void> {
	const until = readDate(input.until);
	if (!until || until <= today(context)) throw refuse('A pause ends on a day that is still to come.');
	if (input.because.trim() === '') throw refuse('A pause needs a reason.');
	await inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const mailbox = await requireMailbox(within, input.mailbox);
		const folder = await requirePlace(within, mailbox, input.folder);
		await endFolderPause(db, folder.id, context.now().toISOString());
		await addPause(db, {
			mailboxId: mailbox.id,
			folderId: folder.id,
			until,
			because: input.because.trim(),
			madeBy: context.actor.name,
			madeAt: context.now().toISOString()
		});
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'folder-paused',
			details: { mailbox: mailbox.name, folder: folder.path, until: showDate(until), because: input.because.trim() }
		});
	});
}

/** Sets whether the mail of a folder and its subfolders is never archived. @throws Refusal */
export async function setFolderArchiving(
	context: Context,
	input: FolderInput & { neverArchived: boolean }
): Promise<void> {
	const { neverArchived } = input;
	await inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const mailbox = await requireMailbox(within, input.mailbox);
		const folder = await requirePlace(within, mailbox, input.folder);
		await putNeverArchived(db, folder.id, neverArchived);
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'folder-archiving-set',
			details: { mailbox: mailbox.name, folder: folder.path, neverArchived }
		});
	});
}

/** Ends the pause of a folder. @throws Refusal */
export async function endPause(context: Context, input: FolderInput): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const mailbox = await requireMailbox(within, input.mailbox);
		const folder = await requirePlace(within, mailbox, input.folder);
		if (!(await endFolderPause(db, folder.id, context.now().toISOString())))
			throw new Refusal('not-found', `${folder.path} is not paused. Nothing was changed.`);
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'pause-ended',
			details: { mailbox: mailbox.name, folder: folder.path }
		});
	});
}

/** The use cases of this file. */
export const foldersUseCases = [
	defineUseCase({
		name: 'makeFolder',
		input: () => Joi.object({ mailbox: mailboxRef.required(), folder: text.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: makeFolder
	}),
	defineUseCase({
		name: 'renameFolder',
		input: () =>
			Joi.object({
				tree: Joi.valid('mailbox', 'archive'),
				mailbox: mailboxRef.required(),
				folder: text.required(),
				to: text.required()
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: renameFolder
	}),
	defineUseCase({
		name: 'removeFolders',
		input: () => Joi.object({ mailbox: mailboxRef.required(), folders: Joi.array().items(text).required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: removeFolders
	}),
	defineUseCase({
		name: 'mergeFolder',
		input: () =>
			Joi.object({
				tree: Joi.valid('mailbox', 'archive'),
				mailbox: mailboxRef.required(),
				folder: text.required(),
				into: text.required()
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: mergeFolder
	}),
	defineUseCase({
		name: 'folderPerYear',
		input: () =>
			Joi.object({
				tree: Joi.valid('mailbox', 'archive'),
				mailbox: mailboxRef.required(),
				folder: text.required(),
				closes: Joi.boolean()
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: folderPerYear
	}),
	defineUseCase({
		name: 'pauseFolder',
		input: () =>
			Joi.object({
				mailbox: mailboxRef.required(),
				folder: text.required(),
				until: text.required(),
				because: text.required()
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: pauseFolder
	}),
	defineUseCase({
		name: 'setFolderArchiving',
		input: () =>
			Joi.object({
				mailbox: mailboxRef.required(),
				folder: text.required(),
				neverArchived: Joi.boolean().required()
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: setFolderArchiving
	}),
	defineUseCase({
		name: 'endPause',
		input: () => Joi.object({ mailbox: mailboxRef.required(), folder: text.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: endPause
	})
] as const;
