import Joi from 'joi';
import type { Decision } from '../../../core/docket/decisions.ts';
import { type ProposalKind, proposalLabel } from '../../../core/likeness/proposals.ts';
import { type Context, decision, defineUseCase, id, proposalKind, text } from '../context/index.ts';
import { decide, type DocketView, type Scope } from '../docket/index.ts';
import { requireFolder, requireMailboxId } from '../mail/index.ts';
import { Refusal } from '../refusal.ts';

/** A decision on proposed messages. */
interface ProposalDecision {
	mailboxId: number;
	kind: ProposalKind;
	decision: Decision;
	/** Path of a folder, with its subfolders; undefined: all folders. */
	folder?: string | undefined;
	/** Undefined: all proposals of this kind. */
	ids?: number[] | undefined;
}

/** Puts a decision on proposed messages on the docket. @throws Refusal */
async function decideProposals(context: Context, input: ProposalDecision): Promise<DocketView> {
	const { mailboxId, kind, ids, decision } = input;
	if (ids?.length === 0) throw new Refusal('bad-input', 'Select messages first. Nothing was drafted.');
	const mailbox = await requireMailboxId(context, mailboxId);
	const folderIds = input.folder ? (await requireFolder(context, mailbox, input.folder)).ids : undefined;
	const scope: Scope = { kind: 'proposal', proposal: kind, ids, folderIds, label: proposalLabel(kind) };
	return decide(context, { mailboxId, line: { decision, options: {}, scope } });
}

/** The use cases of this file. */
export const decideProposalsUseCases = [
	defineUseCase({
		name: 'decideProposals',
		input: () =>
			Joi.object({
				mailboxId: id.required(),
				kind: proposalKind.required(),
				decision: decision.required(),
				folder: text,
				ids: Joi.array().items(id).max(10_000)
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: decideProposals
	})
] as const;
