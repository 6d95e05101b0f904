import { isSame } from '../../../core/access/roles.ts';
import { ruleOf } from '../../../core/docket/decisions.ts';
import { getSetting, inTransaction } from '../database/index.ts';
import { Refusal } from '../refusal.ts';
import { type Docket, putApproval } from './dockets-store.ts';
import { appendLedger } from '../ledger/index.ts';
import { type Context, defineUseCase, id } from '../context/index.ts';
import { requireDocket } from './show-docket.ts';
import Joi from 'joi';

/** Whether a destruction decided by a person needs a second person. */
export async function isApprovalDemanded({ db }: Pick<Context, 'db'>): Promise<boolean> {
	return (await getSetting(db, 'destruction-approval')) === 'yes';
}

/**
 * Whether two people stand behind a destruction: the approver did not prepare it, and if Kovrel prepared it, somebody
 * else carries it out.
 *
 * @throws Refusal where that is demanded and is not so
 */
export async function requireApproval(context: Context, docket: Docket): Promise<void> {
	if (!(await isApprovalDemanded(context))) return;
	if (docket.approvedBy === null)
		throw new Refusal(
			'not-possible',
			`Docket ${docket.id} destroys for good: a second administrator has to approve it first, who did not prepare it. Nothing was done.`
		);
	const isPersons = docket.draftedById !== null;
	if (!isPersons && isSame({ personId: docket.approvedById, name: docket.approvedBy }, context.actor))
		throw new Refusal(
			'not-possible',
			`You approved docket ${docket.id}, and nobody but Kovrel prepared it: another administrator carries it out. Nothing was done.`
		);
}

/** Approves the destruction in a draft prepared by somebody else. @throws Refusal */
export async function approveDocket(
	context: Context,
	input: { id: number; expected: { messages: number; bytes: number } }
): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const docket = await requireDocket({ db }, input.id);
		const refuse = (sentence: string) => new Refusal('not-possible', `${sentence} Nothing was done.`);
		if (docket.state !== 'drafted') throw refuse(`Docket ${docket.id} was ${docket.state.replace('-', ' ')} already.`);
		if (!docket.lines.some(({ decision }) => ruleOf(decision).approval === 'where demanded'))
			throw refuse(`Docket ${docket.id} destroys nothing: it wants no approval.`);
		if (context.actor.personId === null)
			throw refuse('Only somebody who is known by name approves: at the terminal, KOVREL_PERSON says who you are.');
		const preparedBy = [{ personId: docket.draftedById, name: docket.draftedBy }, ...docket.changedBy];
		if (preparedBy.some((by) => isSame(by, context.actor)))
			throw refuse('You prepared this docket, or a part of it: somebody else approves it.');
		if (docket.messages !== input.expected.messages || docket.bytes !== input.expected.bytes)
			throw new Refusal('changed', `Docket ${docket.id} changed after you opened it: read it again. Nothing was done.`);
		await putApproval(db, docket.id, { at: context.now(), by: context.actor });
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'docket-approved',
			details: { docket: docket.id, preparedBy: docket.draftedBy, messages: docket.messages, bytes: docket.bytes }
		});
	});
}

/** The use cases of this file. */
export const approveDocketUseCases = [
	defineUseCase({
		name: 'isApprovalDemanded',
		thread: 'reader',
		right: 'oversight',
		run: isApprovalDemanded
	}),
	defineUseCase({
		name: 'approveDocket',
		input: () =>
			Joi.object({
				id: id.required(),
				expected: Joi.object({ messages: Joi.number().required(), bytes: Joi.number().required() }).required()
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: approveDocket
	})
] as const;
