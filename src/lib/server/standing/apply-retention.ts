import { showCount } from '../../../core/weigh/units.ts';
import { type Condition, inTransaction, sql } from '../database/index.ts';
import { Refusal } from '../refusal.ts';
import { refreshDue } from './due-store.ts';
import { countItems, itemRange, threadNewMail } from '../mail/index.ts';
import { appliedSettings, mailboxesToApply, noteApplied } from './retention-store.ts';
import { type Context, defineJob, defineUseCase } from '../context/index.ts';

/* Items of one transaction: about half a second. */
const AT_ONCE = 40_000;
/* In mailboxes up to this size, a change of settings is applied at once, in its own transaction. */
const SMALL = 60_000;

/** The result of applying settings. */
export interface Recalculated {
	/** Items that changed. */
	changed: number;
	finished: boolean;
}

async function applyTo(context: Context, mailboxId: number): Promise<Recalculated> {
	// some terms count from the last message of a thread
	await threadNewMail(context, { mailboxId });
	const { settings } = await appliedSettings(context.db, mailboxId);
	const { first, last } = await itemRange(context.db, mailboxId);
	let changed = 0;
	for (let after = first - 1; after < last; after += AT_ONCE) {
		if (context.signal.aborted) return { changed, finished: false };
		const within: Condition = sql`item.id > ${after} AND item.id <= ${after + AT_ONCE}`;
		changed += await inTransaction(context.db, (db) => refreshDue(db, mailboxId, within));
		context.report({
			done: Math.min(last, after + AT_ONCE) - first + 1,
			total: last - first + 1,
			note: `${showCount(changed)} due dates changed`
		});
	}
	// later settings have a higher number, and are still to be applied
	await inTransaction(context.db, (db) => noteApplied(db, mailboxId, settings));
	return { changed, finished: true };
}

/** Applies changed settings to all items concerned, until none are left. */
export async function recalculateDue(context: Context): Promise<Recalculated> {
	let changed = 0;
	for (let waiting = await mailboxesToApply(context.db); waiting[0] !== undefined;) {
		const done = await applyTo(context, waiting[0]);
		changed += done.changed;
		if (!done.finished) return { changed, finished: false };
		waiting = await mailboxesToApply(context.db);
	}
	return { changed, finished: true };
}

/** Applies changed settings at once if that is fast; else a job or the next scheduled run does it. */
export async function applySmall(context: Context): Promise<void> {
	let isLarge = false;
	for (const mailboxId of await mailboxesToApply(context.db))
		if ((await countItems(context.db, mailboxId)) <= SMALL) await applyTo(context, mailboxId);
		else isLarge = true;
	if (isLarge)
		await context.follow(context.db, {
			useCase: 'recalculateDue',
			input: undefined,
			about: { kind: 'due dates' },
			once: true
		});
}

/** Whether settings of a mailbox, or of any, have to be applied. */
export async function isBeingApplied({ db }: Context, mailboxId?: number): Promise<boolean> {
	if (mailboxId === undefined) return (await mailboxesToApply(db)).length > 0;
	const { settings, applied } = await appliedSettings(db, mailboxId);
	return applied < settings;
}

/** Whether settings of any mailbox have to be applied. */
async function isBeingAppliedSomewhere(context: Context): Promise<boolean> {
	return isBeingApplied(context);
}

/** Refuses work that depends on due dates and classes while settings are not applied. @throws Refusal */
export async function requireApplied(context: Context, mailboxId: number): Promise<void> {
	if (await isBeingApplied(context, mailboxId))
		throw new Refusal(
			'not-possible',
			'Retention settings were changed and are still being applied to the mail; try again when that is done. Nothing was done.'
		);
}

/** The use cases of this file. */
export const applyRetentionUseCases = [
	defineUseCase({
		name: 'isBeingAppliedSomewhere',
		thread: 'reader',
		right: 'administrator',
		run: isBeingAppliedSomewhere
	}),
	defineJob(
		{
			name: 'recalculateDue',
			thread: 'writer',
			right: 'administrator',
			run: recalculateDue
		},
		{ lane: 'docket', about: () => ({ kind: 'due dates' }) }
	)
] as const;
