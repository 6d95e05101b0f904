import type { Asked, DecisionOptions } from '../../../core/docket/decision.ts';
import { type Decision, ruleOf } from '../../../core/docket/decisions.ts';
import { addItemsLike, ensureFolder, listMailboxes, type OpeningRow, openingsIn, recordCopies } from '../mail/index.ts';
import { inTransaction } from '../database/index.ts';
import { Refusal } from '../refusal.ts';
import { grantsOf, ownMailboxes, type OwnMailbox, reachOf, withinReach } from '../access/index.ts';
import { appendLedger } from '../ledger/index.ts';
import {
	type Context,
	count,
	decision,
	decisionOptions,
	defineUseCase,
	dueAction,
	id,
	text,
	today
} from '../context/index.ts';
import { carryOut, type DocketOutcome, itemsByMailbox, prepareDocket } from '../docket/index.ts';
import { type DueItem, dueItems, type DueItemsInput, dueOverview, type DueOverview } from '../retention/index.ts';
import { requireOwn } from './own-mailbox.ts';
import { openReview, type Review } from './reviews-store.ts';
import { placeNewMail } from '../intake/index.ts';
import Joi from 'joi';

/** The mail that a person may find and restore. */
export interface MyReach {
	own: OwnMailbox[];
	grants: { mailbox: string; folder: string | null; mayFind: boolean; mayRestore: boolean; until: string | null }[];
	/** Mailboxes that they may not search whole, and can ask for. */
	others: string[];
	everywhere: boolean;
}

/** A person's own mailboxes, grants and what else concerns them. */
export async function myReach(context: Context): Promise<MyReach> {
	const { db, actor } = context;
	const reach = await reachOf(context, 'find');
	const grants = actor.personId === null ? [] : await grantsOf(db, actor.personId, today(context));
	return {
		everywhere: reach.mailboxIds === 'all',
		own: actor.personId === null ? [] : await ownMailboxes(db, actor.personId),
		grants: grants.map(({ mailbox, folder, mayFind, mayRestore, until }) => ({
			mailbox,
			folder,
			mayFind: mayFind === 1,
			mayRestore: mayRestore === 1,
			until
		})),
		others: (await listMailboxes(db))
			.filter(({ id }) => reach.mailboxIds !== 'all' && !reach.mailboxIds.includes(id))
			.map(({ name }) => name)
	};
}

/** The own page of a mailbox owner. */
export interface OwnerView {
	mailbox: OwnMailbox;
	/** The review that they are asked for; undefined: none. */
	review: Review | undefined;
	/** Upcoming destruction and archiving, by day and then by month. */
	due: DueOverview;
	looks: OpeningRow[];
}

const LOOKS_SHOWN = 100;

/**
 * Upcoming dispositions in one's own mailbox with their reasons, and what others opened in it. @throws Refusal if it
 * is not one's own
 */
export async function ownerView(context: Context, input: { mailboxId: number }): Promise<OwnerView> {
	const mailbox = await requireOwn(context, input.mailboxId);
	return {
		mailbox,
		review: await openReview(context.db, mailbox.id, today(context)),
		due: await dueOverview(context, { mailboxIds: [mailbox.id] }),
		looks: await openingsIn(context.db, { mailboxId: mailbox.id, but: context.actor.name, limit: LOOKS_SHOWN })
	};
}

/** The messages behind a row of upcoming dispositions. @throws Refusal */
export async function ownItems(
	context: Context,
	input: DueItemsInput & { mailboxId: number }
): Promise<{ items: DueItem[]; total: number }> {
	await requireOwn(context, input.mailboxId);
	return dueItems(context, input);
}

/* The decision's own options, and no others. */
const NEEDED: Record<Asked, readonly (keyof DecisionOptions)[]> = {
	folder: ['folder'],
	tag: ['tag'],
	pause: ['until', 'because'],
	class: ['class', 'because'],
	period: ['terms', 'because'],
	series: ['series']
};

function neededBy(decision: Decision, options: DecisionOptions): DecisionOptions {
	const asks = ruleOf(decision).buttons[0]?.asks;
	return Object.fromEntries(asks ? NEEDED[asks].map((name) => [name, options[name]]) : []);
}

/**
 * Keeps messages of one's own longer, within the policy, pauses or classes them: by a docket, at once.
 *
 * @throws Refusal
 */
export async function keepOwn(
	context: Context,
	input: { ids: number[]; decision: Decision; options: DecisionOptions }
): Promise<DocketOutcome> {
	const { ids, decision, options } = input;
	if (!ruleOf(decision).screens.includes('own'))
		throw new Refusal('bad-input', 'An owner does not decide that. Nothing was done.');
	const { mailboxes } = await itemsByMailbox(context, ids);
	const [only, ...others] = mailboxes;
	if (!only || others.length > 0) throw new Refusal('bad-input', 'Select messages of one mailbox. Nothing was done.');
	await requireOwn(context, only[0]);
	const draft = await prepareDocket(context, {
		mailboxId: only[0],
		lines: [{ decision, options: neededBy(decision, options), scope: { kind: 'items', ids: only[1] } }]
	});
	return carryOut(context, { id: draft.id });
}

const GIVEN_BACK = 'Given back';

/**
 * Copies messages that one may restore into one's own mailbox, as received; the originals stay in place.
 *
 * @returns how many are new there
 * @throws Refusal
 */
export async function copyToOwnMailbox(
	context: Context,
	input: { ids: number[]; mailboxId: number }
): Promise<{ mailbox: string; folder: string; messages: number; already: number }> {
	const mailbox = await requireOwn(context, input.mailboxId);
	const ids = await withinReach(context, input.ids, 'restore');
	if (ids.length === 0)
		throw new Refusal('not-found', 'There are no such messages that you may restore. Nothing was done.');
	const messages = await inTransaction(context.db, async (db) => {
		const folder = await ensureFolder(db, mailbox.id, 'mailbox', GIVEN_BACK);
		const added = await addItemsLike(db, ids, { mailboxId: mailbox.id, folderId: folder.id });
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'had-back',
			details: { mailbox: mailbox.name, folder: folder.path, messages: added }
		});
		// the owners see who copied their mail (decision 10)
		await recordCopies({ ...context, db }, ids);
		return added;
	});
	await placeNewMail(context, mailbox.id);
	return { mailbox: mailbox.name, folder: GIVEN_BACK, messages, already: ids.length - messages };
}

/** The use cases of this file. */
export const ownUseCases = [
	defineUseCase({
		name: 'myReach',
		thread: 'reader',
		right: 'finder',
		run: myReach
	}),
	defineUseCase({
		name: 'ownerView',
		input: () => Joi.object({ mailboxId: id.required() }).required(),
		thread: 'reader',
		right: 'finder',
		run: ownerView
	}),
	defineUseCase({
		name: 'ownItems',
		input: () =>
			Joi.object({
				mailboxId: id.required(),
				action: dueAction,
				date: text,
				until: text,
				retentionId: id,
				folderId: id,
				limit: count.required(),
				offset: count
			}).required(),
		thread: 'reader',
		right: 'finder',
		run: ownItems
	}),
	defineUseCase({
		name: 'copyToOwnMailbox',
		input: () => Joi.object({ ids: Joi.array().items(id).required(), mailboxId: id.required() }).required(),
		thread: 'writer',
		right: 'finder',
		run: copyToOwnMailbox
	}),
	defineUseCase({
		name: 'keepOwn',
		input: () =>
			Joi.object({
				ids: Joi.array().items(id).required(),
				decision: decision.required(),
				options: decisionOptions.required()
			}).required(),
		thread: 'writer',
		right: 'finder',
		run: keepOwn
	})
] as const;
