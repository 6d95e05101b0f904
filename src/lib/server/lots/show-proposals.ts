import Joi from 'joi';
import { type ProposalKind, PROPOSALS } from '../../../core/likeness/proposals.ts';
import type { FolderPlace, Weight } from '../../../core/weigh/tree.ts';
import { type Context, defineUseCase, id, proposalKind, text, today } from '../context/index.ts';
import { all, type Condition, getSetting, inTransaction, putSetting } from '../database/index.ts';
import { appendLedger } from '../ledger/index.ts';
import { emptyFolders, findTag, type Mailbox, requireFolder, requireMailboxId, type Tag } from '../mail/index.ts';
import { Refusal } from '../refusal.ts';
import { inFolders, isProposable, pausedOn } from '../standing/index.ts';
import {
	isProposed,
	type ProposalReason,
	proposalRun,
	proposalSums,
	proposedItems,
	type ProposedRow,
	reasonsOf
} from './proposals-store.ts';

/** The proposals of one kind. */
export interface Proposal extends Weight {
	kind: ProposalKind;
	name: string;
	what: string;
	decision: 'delete' | 'archive';
	/** Safe to clear, or only worth a look. */
	standing: 'safe' | 'look';
}

/** The proposals of a mailbox, the largest gain first. */
export interface Proposals {
	/** Undefined: not computed yet. */
	lookedAt: string | undefined;
	proposals: Proposal[];
	emptyFolders: FolderPlace[];
}

/* What may be proposed today, in a folder with its subfolders or in all. */
async function proposableIn(context: Context, mailbox: Mailbox, folder: string | undefined): Promise<Condition> {
	const paused = await pausedOn(context.db, mailbox.id, today(context));
	const ids = folder ? (await requireFolder(context, mailbox, folder)).ids : undefined;
	return all([isProposable(paused), inFolders(ids)]);
}

/** The open proposals of a mailbox, or of a folder with its subfolders. */
export async function listProposals(
	context: Context,
	input: { mailboxId: number; folder?: string | undefined }
): Promise<Proposals> {
	const mailbox = await requireMailboxId(context, input.mailboxId);
	const sums = await proposalSums(context.db, mailbox.id, await proposableIn(context, mailbox, input.folder));
	return {
		lookedAt: await proposalRun(context.db, mailbox.id),
		proposals: sums.map(({ kind, messages, bytes }) => ({ kind, messages, bytes, ...PROPOSALS[kind] })),
		emptyFolders: await emptyFolders(context.db, mailbox.id)
	};
}

/** The open proposals of one kind. */
interface ProposalsOfKind {
	mailboxId: number;
	kind: ProposalKind;
	folder?: string | undefined;
}

/** The condition for the open proposals of a kind. @throws Refusal */
export async function proposedWhere(context: Context, input: ProposalsOfKind): Promise<Condition> {
	const mailbox = await requireMailboxId(context, input.mailboxId);
	return all([await proposableIn(context, mailbox, input.folder), isProposed(mailbox.id, input.kind)]);
}

/** The messages of a proposal, each with its reason. */
export async function proposalItems(
	context: Context,
	input: ProposalsOfKind & { limit: number; offset?: number | undefined }
): Promise<{ items: ProposedRow[]; total: number }> {
	const proposed = await proposedWhere(context, input);
	return proposedItems(context.db, input.mailboxId, input.kind, proposed, input.limit, input.offset ?? 0);
}

/** Why some messages are proposed. */
async function proposalReasons(
	context: Context,
	{ mailboxId, kind, ids }: { mailboxId: number; kind: ProposalKind; ids: number[] }
): Promise<ProposalReason[]> {
	return reasonsOf(context.db, mailboxId, kind, ids);
}

/** The tags whose mail is never proposed. */
async function proposalTags({ db }: Pick<Context, 'db'>): Promise<number[]> {
	return JSON.parse((await getSetting(db, 'proposal-tags')) ?? '[]') as number[];
}

/** Sets the tags whose mail is never proposed. @throws Refusal for a tag that is not there */
export async function setProposalTags(context: Context, input: { tags: string[] }): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const tags: Tag[] = [];
		for (const name of input.tags) {
			const tag = await findTag(db, name);
			if (!tag) throw new Refusal('not-found', `There is no tag "${name}". Nothing was changed.`);
			tags.push(tag);
		}
		await putSetting(db, 'proposal-tags', JSON.stringify(tags.map(({ id }) => id)));
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'proposal-tags-set',
			details: { tags: tags.map(({ name }) => name) }
		});
	});
}

/** The use cases of this file. */
export const showProposalsUseCases = [
	defineUseCase({
		name: 'listProposals',
		input: () => Joi.object({ mailboxId: id.required(), folder: text }).required(),
		thread: 'heavy',
		right: 'administrator',
		run: listProposals
	}),
	defineUseCase({ name: 'proposalTags', thread: 'reader', right: 'administrator', run: proposalTags }),
	defineUseCase({
		name: 'setProposalTags',
		input: () => Joi.object({ tags: Joi.array().items(text).max(1_000).required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: setProposalTags
	}),
	defineUseCase({
		name: 'proposalReasons',
		input: () =>
			Joi.object({
				mailboxId: id.required(),
				kind: proposalKind.required(),
				ids: Joi.array().items(id).max(1_000).required()
			}).required(),
		thread: 'reader',
		right: 'administrator',
		run: proposalReasons
	})
] as const;
