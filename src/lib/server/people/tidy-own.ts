import Joi from 'joi';
import { type Decision, DECISIONS, isReversible, ruleOf } from '../../../core/docket/decisions.ts';
import { atOnceFor } from '../access/index.ts';
import { type Context, decisionOptions, defineUseCase, id, text } from '../context/index.ts';
import {
	carryOut,
	type DecisionResult,
	discardDocket,
	type DocketOutcome,
	type DocketView,
	itemsByMailbox,
	listedDockets,
	recentOptions,
	requireDocket,
	takeBack
} from '../docket/index.ts';
import { decideMessages, type MessagesDecision, searchFields } from '../find/index.ts';
import { isJunkMark, JUNK_MARKS } from '../lists/index.ts';
import { foldersById, listFolders, tagsInMailbox } from '../mail/index.ts';
import { setRetention } from '../retention/index.ts';
import { governed, listRetentions, requireAllowed } from '../standing/index.ts';
import { Refusal } from '../refusal.ts';
import { type Weighing, weighMailbox } from '../weigh/index.ts';
import { requireTidied } from './own-mailbox.ts';

/* Decisions that an owner makes on a sheet of their own mail. */
const OWNERS: readonly Decision[] = DECISIONS.filter(
	(decision) => isReversible(decision) && ruleOf(decision).deciders.includes('owner')
);

/**
 * Decides on messages of one's own mailbox: like an administrator, but destroys nothing and overrides no protection.
 *
 * @throws Refusal
 */
export async function decideOwn(context: Context, input: MessagesDecision): Promise<DecisionResult[]> {
	const { decision, ids, search, options } = input;
	if (!isJunkMark(decision) && !(OWNERS as readonly string[]).includes(decision))
		throw new Refusal('forbidden', 'An owner does not decide that. Nothing was done.');
	if (options.only !== undefined)
		throw new Refusal('forbidden', 'Only an administrator overrides what protects mail. Nothing was done.');
	if (options.series !== undefined)
		throw new Refusal('forbidden', 'Only an administrator puts mail under a series. Nothing was done.');
	// by its number: a name could be that of another mailbox
	const searched = typeof search?.mailbox === 'number' ? search.mailbox : 0;
	const mailboxes = ids ? [...(await itemsByMailbox(context, ids)).mailboxes.keys()] : [searched];
	for (const mailboxId of mailboxes) await requireTidied(context, mailboxId);
	return decideMessages(context, input);
}

/* A docket in one's own mailbox that nobody else has drafted or changed. */
async function requireOwnDocket(context: Context, docketId: number): Promise<void> {
	const docket = await requireDocket(context, docketId);
	await requireTidied(context, docket.mailboxId);
	const { personId } = context.actor;
	const isTheirs = docket.draftedById === personId && docket.changedBy.every((by) => by.personId === personId);
	if (!isTheirs) throw new Refusal('not-found', `There is no docket ${docketId} of yours. Nothing was done.`);
}

/** Carries out one's own draft. @throws Refusal */
export async function carryOutOwn(context: Context, input: { id: number }): Promise<DocketOutcome> {
	await requireOwnDocket(context, input.id);
	return carryOut(context, input);
}

/** Takes back one's own docket. @throws Refusal */
export async function takeBackOwn(context: Context, input: { id: number }): Promise<DocketOutcome> {
	await requireOwnDocket(context, input.id);
	return takeBack(context, input);
}

/** Discards one's own draft. @throws Refusal */
async function discardOwn(context: Context, input: { id: number }): Promise<void> {
	await requireOwnDocket(context, input.id);
	await discardDocket(context, input);
}

/** What stands beside one's own mail. */
interface OwnTidying {
	mailbox: { id: number; name: string };
	folders: string[];
	archiveFolders: string[];
	tags: string[];
	/** Folders and tags used last, the latest first. */
	recent: { folders: string[]; tags: string[] };
	/** Up to this many messages, a decision is carried out at once. */
	atOnce: number;
	/** Their own dockets: drafts, and the last carried out. */
	dockets: DocketView[];
}

const DOCKETS_SHOWN = 8;

async function ownTidying(context: Context, input: { mailboxId: number }): Promise<OwnTidying> {
	const { db, actor } = context;
	const { id: mailboxId, name } = await requireTidied(context, input.mailboxId);
	const paths = async (tree: 'mailbox' | 'archive') =>
		(await listFolders(db, mailboxId, tree)).filter(({ role }) => role !== 'trash').map(({ path }) => path);
	const dockets = await listedDockets(context, { mailboxId, limit: 100, drafts: true });
	return {
		mailbox: { id: mailboxId, name },
		folders: await paths('mailbox'),
		archiveFolders: await paths('archive'),
		// the names of tags in other mailboxes are not theirs to read
		tags: await tagsInMailbox(db, mailboxId),
		recent: await recentOptions(db, actor, 5),
		atOnce: await atOnceFor(context),
		dockets: dockets
			.filter(({ draftedById, state }) => draftedById === actor.personId && state !== 'taken-back')
			.slice(0, DOCKETS_SHOWN)
	};
}

async function ownWeight(context: Context, input: { mailboxId: number }): Promise<Weighing> {
	const { id: mailboxId } = await requireTidied(context, input.mailboxId);
	return weighMailbox(context, { mailboxId, by: 'organisation' });
}

/** Sets a period for a folder of one's own, within the policy. @throws Refusal */
export async function setOwnPeriod(
	context: Context,
	input: { folderId: number; terms: string; because: string }
): Promise<void> {
	const [folder] = await foldersById(context.db, [input.folderId]);
	if (!folder) throw new Refusal('not-found', 'That is no folder of your own. Nothing was changed.');
	await requireTidied(context, folder.mailboxId);
	const governing = (await governed(context.db, folder.mailboxId)).get(folder.id);
	const retention = governing?.retentionId && (await listRetentions(context.db)).get(governing.retentionId);
	if (governing?.class === 'record' || (retention && retention.series))
		throw new Refusal(
			'forbidden',
			`${folder.path} holds records or is under a series: an administrator changes that. Nothing was changed.`
		);
	await requireAllowed(context, input.terms);
	if (input.because.trim() === '') throw new Refusal('bad-input', 'Say why, for the ledger. Nothing was changed.');
	const wish = { kind: 'folders' as const, folderIds: [folder.id], retention: { terms: input.terms } };
	await setRetention(context, { wish, because: input.because });
}

const docketInput = () => Joi.object({ id: id.required() }).required();
const mailboxInput = () => Joi.object({ mailboxId: id.required() }).required();

/** The use cases of this file. */
export const tidyOwnUseCases = [
	defineUseCase({
		name: 'decideOwn',
		input: () =>
			Joi.object({
				ids: Joi.array().items(id).min(1).max(10_000),
				search: Joi.object(searchFields()),
				without: Joi.array().items(id).max(10_000),
				decision: Joi.valid(...OWNERS, ...JUNK_MARKS).required(),
				options: decisionOptions.required(),
				tags: Joi.array().items(Joi.string().max(200)).min(1).max(20)
			})
				.or('ids', 'search')
				.required(),
		thread: 'writer',
		right: 'finder',
		run: decideOwn
	}),
	defineUseCase({ name: 'carryOutOwn', input: docketInput, thread: 'writer', right: 'finder', run: carryOutOwn }),
	defineUseCase({ name: 'takeBackOwn', input: docketInput, thread: 'writer', right: 'finder', run: takeBackOwn }),
	defineUseCase({ name: 'discardOwn', input: docketInput, thread: 'writer', right: 'finder', run: discardOwn }),
	defineUseCase({ name: 'ownTidying', input: mailboxInput, thread: 'reader', right: 'finder', run: ownTidying }),
	defineUseCase({ name: 'ownWeight', input: mailboxInput, thread: 'heavy', right: 'finder', run: ownWeight }),
	defineUseCase({
		name: 'setOwnPeriod',
		input: () => Joi.object({ folderId: id.required(), terms: text.required(), because: text.required() }).required(),
		thread: 'writer',
		right: 'finder',
		run: setOwnPeriod
	})
] as const;
