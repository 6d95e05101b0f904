import { ruleOf } from '../../../core/docket/decisions.ts';
import type { Left } from '../../../core/docket/left.ts';
import { elsewhereSentence } from '../../../core/docket/sentences.ts';
import type { Context } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import type { Mailbox } from '../mail/index.ts';
import { carryOut } from './carry-out.ts';
import { decide, draftOf, prepareDocket } from './prepare-docket.ts';
import type { Decided } from './scope.ts';
import { type DocketView, showDocket } from './show-docket.ts';

/** The result of a decision in one mailbox. */
export interface DecisionResult {
	mailbox: string;
	/** The docket that did it, or collects it; undefined: there was nothing to do, or no docket does it. */
	docket: number | undefined;
	isDone: boolean;
	messages: number;
	/** How many of them are flagged; only for archiving (invariant 16). */
	flagged: number;
	/** The result in words. */
	sentences: string[];
	left: Left[];
}

/** Drafts and carries out decisions in one transaction: a refusal leaves no draft. @throws Refusal */
export async function carryOutAtOnce(context: Context, mailbox: Mailbox, lines: Decided[]): Promise<DecisionResult> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const draft = await draftOf(within, mailbox, { lines });
		const outcome = await carryOut(within, { id: draft.id });
		const { sentences, lines: done } = await showDocket(within, { id: draft.id });
		const archived = done.filter(({ decision }) => ruleOf(decision).to === 'archived');
		return {
			mailbox: mailbox.name,
			docket: draft.id,
			isDone: outcome.finished,
			messages: outcome.messages,
			flagged: archived.reduce((sum, line) => sum + line.flagged, 0),
			sentences: [
				...sentences,
				...done.map(({ decision, elsewhere }) => elsewhereSentence(decision, elsewhere)).filter(Boolean)
			],
			left: outcome.left
		};
	});
}

const isForGood = ({ decision }: Decided) => ruleOf(decision).takenBack === 'never';

/**
 * Collects decisions on the person's docket of a mailbox; those that cannot be taken back get one of their own.
 *
 * @throws Refusal
 */
export async function collect(context: Context, mailbox: Mailbox, lines: Decided[]): Promise<DecisionResult> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		let docket: DocketView | undefined;
		if (lines.some(isForGood)) docket = await prepareDocket(within, { mailboxId: mailbox.id, lines, onSlip: true });
		else for (const line of lines) docket = await decide(within, { mailboxId: mailbox.id, line });
		return {
			mailbox: mailbox.name,
			docket: docket?.id,
			isDone: false,
			messages: docket?.lines.slice(-lines.length).reduce((most, line) => Math.max(most, line.messages), 0) ?? 0,
			flagged: 0,
			sentences: [],
			left: []
		};
	});
}
