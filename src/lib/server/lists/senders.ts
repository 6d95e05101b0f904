import { monthsBefore } from '../../../core/calendar.ts';
import {
	coversDomain,
	type Judgement,
	judge,
	type MarkKind,
	markWords,
	readMark,
	type SenderMark,
	type Verdict
} from '../../../core/lists/senders.ts';
import { inTransaction } from '../database/index.ts';
import { Refusal } from '../refusal.ts';
import { appendLedger } from '../ledger/index.ts';
import {
	countMarked,
	putSenderMark,
	removeSenderMark,
	senderMarks,
	sendersOfItems,
	type StoredMark
} from './lists-store.ts';
import { folderOfItems, requireMailboxId } from '../mail/index.ts';
import { carryOut, prepareDocket } from '../docket/index.ts';
import { type Context, defineUseCase, id, text, today } from '../context/index.ts';
import { junkLines } from './decide-lists.ts';
import { requireLists } from './lists.ts';
import { officeDomains } from './office-domains.ts';
import Joi from 'joi';

/** Trusted and blocked senders. */
export async function listSenders({ db }: Context): Promise<(StoredMark & { words: string })[]> {
	return (await senderMarks(db)).map((mark) => ({ ...mark, words: markWords(mark) }));
}

/** A sender as a person names it: as text, or of a kind. */
export interface NamedSender {
	/** An address, a domain or `.tld`; with `kind`, a name of that kind. */
	sender: string;
	kind?: MarkKind | undefined;
}

function readSender({ sender, kind }: NamedSender): Pick<SenderMark, 'kind' | 'value'> {
	const found = kind === 'list' ? { kind, value: sender.trim().toLowerCase() } : readMark(sender);
	if (!found || found.value === '')
		throw new Refusal(
			'bad-input',
			`"${sender}" is neither an address (a@b.example), nor a domain (b.example), nor a top-level domain (.example). Nothing was changed.`
		);
	return found;
}

/** What blocking a sender would touch. */
export interface BlockingTried {
	/** The sender in words. */
	words: string;
	/** How many senders it is true of, and their messages of the last twelve months. */
	senders: number;
	messages: number;
	/** What has to be typed, as it is the office's own; undefined: nothing. */
	confirm: string | undefined;
}

/** Says what blocking a sender would touch, before it is done. @throws Refusal */
export async function tryBlocking(context: Context, input: NamedSender): Promise<BlockingTried> {
	const { db } = context;
	const mark = readSender(input);
	const counted = await countMarked(db, mark, monthsBefore(today(context), 12));
	const isOwn = coversDomain(mark, await officeDomains(db));
	return { words: markWords({ ...mark, verdict: 'block' }), ...counted, confirm: isOwn ? mark.value : undefined };
}

/**
 * Trusts or blocks a sender from now on; undefined: neither.
 *
 * @param input.confirm what the person typed, to block the office's own
 * @returns what the sender was before, to take it back
 * @throws Refusal
 */
export async function markSender(
	context: Context,
	input: NamedSender & { verdict: Verdict | undefined; confirm?: string | undefined }
): Promise<{ before: Verdict | undefined }> {
	const mark = readSender(input);
	return inTransaction(context.db, async (db) => {
		if (
			input.verdict === 'block' &&
			input.confirm?.trim().toLowerCase() !== mark.value &&
			coversDomain(mark, await officeDomains(db))
		)
			throw new Refusal(
				'not-possible',
				`Addresses of this office are among them. To block them, type ${mark.value}. Nothing was changed.`
			);
		const before = (await senderMarks(db)).find(({ kind, value }) => kind === mark.kind && value === mark.value);
		await note({ ...context, db }, mark, input.verdict);
		return { before: before?.verdict };
	});
}

/** Trusts lists of a mailbox from now on. @throws Refusal if one is unknown */
export async function trustLists(context: Context, input: { mailboxId: number; ids: number[] }): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		for (const { identifier } of await requireLists(within, input.mailboxId, input.ids))
			await note(within, { kind: 'list', value: identifier }, 'trust');
	});
}

async function note(
	{ db, actor, now }: Context,
	mark: Pick<SenderMark, 'kind' | 'value'>,
	verdict: Verdict | undefined
): Promise<void> {
	if (verdict) await putSenderMark(db, { ...mark, verdict }, actor.name, now());
	else if (!(await removeSenderMark(db, mark)))
		throw new Refusal(
			'not-found',
			`${markWords({ ...mark, verdict: 'block' })} is neither trusted nor blocked. Nothing was changed.`
		);
	await appendLedger(db, {
		at: now(),
		by: actor,
		action: 'sender-marked',
		details: { ...mark, verdict: verdict ?? 'none' }
	});
}

/** The judgement on a message's sender. */
export async function judgeSender(
	{ db }: Pick<Context, 'db'>,
	input: { from: string; list: string }
): Promise<Judgement> {
	return judge(input, await senderMarks(db));
}

/** Name of the dockets that move blocked mail to junk. */
const BLOCKED = 'Blocked senders, new mail';

const AT_ONCE = 5_000;
/* Mail that somebody here wrote or filed cannot be blocked. */
const NOT_FROM: readonly (string | null)[] = ['sent', 'drafts', 'junk', 'trash'];

/** Moves new mail of blocked senders to junk, by a docket that can be taken back like any other. */
export async function applyBlocking(
	context: Context,
	{ mailboxId, sinceItem }: { mailboxId: number; sinceItem: number }
): Promise<void> {
	const marks = await senderMarks(context.db);
	if (!marks.some(({ verdict }) => verdict === 'block')) return;
	const blocked: number[] = [];
	for (let after = sinceItem - 1; ;) {
		const senders = await sendersOfItems(context.db, mailboxId, after, AT_ONCE);
		if (senders.length === 0) break;
		blocked.push(...senders.filter((sender) => judge(sender, marks).verdict === 'block').map(({ id }) => id));
		after = senders.at(-1)?.id as number;
	}
	const roles = await folderOfItems(context.db, blocked);
	const ids = blocked.filter((id) => !NOT_FROM.includes(roles.get(id)?.role ?? null) && roles.get(id)?.kept !== 1);
	if (ids.length === 0) return;
	const mailbox = await requireMailboxId(context, mailboxId);
	const docket = await prepareDocket(context, {
		mailboxId,
		name: BLOCKED,
		lines: await junkLines(context, mailbox, { kind: 'items', ids, label: 'of blocked senders in new mail' })
	});
	await carryOut(context, { id: docket.id, byItself: true });
}

/** The use cases of this file. */
export const sendersUseCases = [
	defineUseCase({
		name: 'listSenders',
		thread: 'reader',
		right: 'administrator',
		run: listSenders
	}),
	defineUseCase({
		name: 'judgeSender',
		input: () => Joi.object({ from: text.required(), list: text.required() }).required(),
		thread: 'reader',
		right: 'administrator',
		run: judgeSender
	}),
	defineUseCase({
		name: 'tryBlocking',
		input: () =>
			Joi.object({ sender: text.required(), kind: Joi.valid('address', 'list', 'domain', 'tld') }).required(),
		thread: 'heavy',
		right: 'administrator',
		run: tryBlocking
	}),
	defineUseCase({
		name: 'markSender',
		input: () =>
			Joi.object({
				sender: text.required(),
				kind: Joi.valid('address', 'list', 'domain', 'tld'),
				verdict: Joi.valid('block', 'trust'),
				confirm: text
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: markSender
	}),
	defineUseCase({
		name: 'trustLists',
		input: () => Joi.object({ mailboxId: id.required(), ids: Joi.array().items(id).required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: trustLists
	})
] as const;
