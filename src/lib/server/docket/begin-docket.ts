import { confirmationFor, isConfirmedBy } from '../../../core/docket/confirmation.ts';
import { ruleOf } from '../../../core/docket/decisions.ts';
import { changedSentence } from '../../../core/docket/sentences.ts';
import { showMessages } from '../../../core/weigh/units.ts';
import { RESTS_ON_ANOTHER } from '../../../core/likeness/proposals.ts';
import type { ClassWord } from '../../../core/retention/classes.ts';
import { type Context, today } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import { requireRightClock } from '../ledger/index.ts';
import { type Mailbox, requireMailboxId, requireReadAsNow } from '../mail/index.ts';
import { Refusal } from '../refusal.ts';
import { findClass, overQuotaAfterAdding, pausedOn, weighAdded } from '../standing/index.ts';
import { requireApproval } from './approve-docket.ts';
import { freezeItems } from './batches-store.ts';
import { claimedSums, claimedTotal, conflictsOf, NOTHING_CLAIMED, settleClaims } from './claims-store.ts';
import { type BeginningLine, workOf } from './decision-work.ts';
import { type Docket, type DocketLine, listDockets, putDocketState, putLineSums } from './dockets-store.ts';
import { applyHolds, recount, requireSettled } from './prepare-docket.ts';
import { requireDocket } from './show-docket.ts';
import { putOnSlip } from './slips-store.ts';

interface Expected {
	messages: number;
	bytes: number;
}

/** A docket that is to be carried out. */
export interface CarryOutInput {
	id: number;
	/** The counts the person saw, else those of the draft; if the docket's counts differ now, nothing is done. */
	expected?: Expected | undefined;
	/** What the person typed to confirm a destruction. */
	confirm?: string | undefined;
	/** Started by a scheduled run: a person has seen and carried out its first docket. */
	byItself?: boolean | undefined;
}

const takesAway = ({ decision }: DocketLine) => ruleOf(decision).takesAway;
const takesRedundant = (line: DocketLine) =>
	takesAway(line) && line.scope.kind === 'proposal' && RESTS_ON_ANOTHER.includes(line.scope.proposal);

/*
 * A message's duplicate must not be taken by another unfinished docket: of two frozen side by side, neither would see
 * the other's.
 */
async function requireNoneBetween({ db }: Context, docket: Docket): Promise<void> {
	if (!docket.lines.some(takesAway)) return;
	const { mailboxId } = docket;
	const begun = await listDockets(db, { mailboxId, states: ['carrying-out'], limit: 100 });
	const other = begun.find(
		({ lines }) => lines.some(takesAway) && (lines.some(takesRedundant) || docket.lines.some(takesRedundant))
	);
	if (other)
		throw new Refusal(
			'not-possible',
			`Docket ${other.id} was stopped on the way, and it deletes as well: go on with it or take it back first, so that no message goes together with the one that repeats it. Nothing was done.`
		);
}

/* A class may have a quota of its own: if it would be exceeded, nothing is added. */
async function requireRoomInClasses(context: Context, mailbox: Mailbox, beginnings: BeginningLine[]): Promise<void> {
	const added = new Map<ClassWord, number>();
	for (const beginning of beginnings) {
		const work = workOf(beginning.line.decision);
		const into = work.about === 'messages' ? await work.classesAs?.(context, beginning) : undefined;
		const of = into && (await findClass(context.db, into.word));
		if (!of) continue;
		const bytes = await weighAdded(context.db, beginning.line.id, of.id, into.byFolder);
		added.set(of.word, (added.get(of.word) ?? 0) + bytes);
	}
	const over = await overQuotaAfterAdding(context.db, mailbox, added);
	if (over) throw new Refusal('not-possible', `${over} Nothing was done.`);
}

/* Freezes the items of a line, or records the requests to lists. */
async function beginLine(context: Context, beginning: BeginningLine): Promise<void> {
	const { docket, line, mailbox, paused } = beginning;
	const work = workOf(line.decision);
	await work.check?.(context, mailbox, line);
	if (work.about === 'lists') return work.begin(context, beginning);
	const destination = await work.begin?.(context, beginning);
	await freezeItems(context.db, docket, line, { destination, keeps: work.change.keeps, paused });
}

class ChangedSinceDrafted extends Error {}

/* Freezes the items of a draft; rolls back if they are not those the person saw. */
async function freeze(context: Context, { id, expected, confirm, byItself = false }: CarryOutInput): Promise<void> {
	const { db } = context;
	const docket = await requireDocket(context, id);
	if (docket.state === 'carrying-out') return;
	// two scheduled runs may overlap, from a server and a terminal: the other one has finished it; or it was this very job
	if ((byItself || context.resumes) && docket.state === 'carried-out') return;
	if (docket.state !== 'drafted')
		throw new Refusal('not-possible', `Docket ${id} was ${docket.state.replace('-', ' ')} already. Nothing was done.`);
	if (docket.lines.length === 0) throw new Refusal('not-possible', `Docket ${id} decides nothing. Nothing was done.`);
	const mailbox = await requireMailboxId(context, docket.mailboxId);
	const rules = docket.lines.map(({ decision }) => ruleOf(decision));
	if (rules.some(({ to }) => to === 'destroyed')) {
		// what is destroyed again after a restore goes by its certificates, not by a day
		if (!docket.lines.every(({ scope }) => scope.kind === 'again')) await requireRightClock(context);
		await requireReadAsNow(context);
	}
	if (!byItself && rules.some(({ approval }) => approval === 'where demanded')) await requireApproval(context, docket);
	await requireSettled(context, docket);
	await requireNoneBetween(context, docket);
	const paused = await pausedOn(db, docket.mailboxId, today(context));
	await applyHolds(context, docket, paused);
	const beginnings = docket.lines.map((line) => ({ docket, line, mailbox, paused }));
	for (const beginning of beginnings) await beginLine(context, beginning);
	const { conflicts } = await settleClaims(db, 'docket_item', docket);
	await requireRoomInClasses(context, mailbox, beginnings);
	const seen = expected ?? { messages: docket.messages, bytes: docket.bytes };
	const claimed = await claimedSums(db, 'docket_item', docket);
	const frozen = docket.lines.map((line) => ({
		...line,
		...(claimed.get(line.id) ?? NOTHING_CLAIMED),
		conflicts: conflictsOf(line, conflicts)
	}));
	await putLineSums(db, frozen);
	const confirmed = frozen
		.filter(({ decision }) => ruleOf(decision).confirmation === 'typed')
		.reduce((sum, { messages }) => sum + messages, 0);
	const now = await claimedTotal(db, 'docket_item', docket);
	if (now.messages !== seen.messages || now.bytes !== seen.bytes) throw new ChangedSinceDrafted();
	// by the frozen items, not by the draft (invariant 21)
	const asked = byItself ? undefined : confirmationFor(confirmed, mailbox);
	if (asked && !isConfirmedBy(asked, confirm ?? ''))
		throw new Refusal(
			'bad-input',
			`This destroys ${showMessages(confirmed)} for good: confirm it with ${asked.of === 'mailbox' ? 'the name of the mailbox' : 'the word'}, "${asked.text}". Nothing was done.`
		);
	if (!byItself) await putOnSlip(db, context.actor, docket.id);
	await putDocketState(db, docket.id, 'carrying-out', { at: context.now(), by: context.actor });
}

/**
 * Begins to carry out a draft by freezing its items. If they are not those the person saw, nothing is done, and the
 * draft is counted again.
 *
 * @throws Refusal
 */
export async function begin(context: Context, input: CarryOutInput): Promise<void> {
	const { id, expected } = input;
	try {
		await inTransaction(context.db, (db) => freeze({ ...context, db }, input));
	} catch (error) {
		if (!(error instanceof ChangedSinceDrafted)) throw error;
		const drafted = await requireDocket(context, id);
		const now = await inTransaction(context.db, (db) => recount({ ...context, db }, drafted));
		throw new Refusal(
			'changed',
			`${changedSentence(expected ?? drafted, now)} It was counted again and nothing was done; look at it once more.`
		);
	}
}
