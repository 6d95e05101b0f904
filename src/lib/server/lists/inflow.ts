import { daysAfter, daysBetween } from '../../../core/calendar.ts';
import { type Inflow, inflowOf } from '../../../core/lists/inflow.ts';
import { listsAsked } from './unsubscribe-store.ts';
import { listDays } from './lists-store.ts';
import { type Context, defineUseCase, id, today } from '../context/index.ts';
import { requireMailboxId } from '../mail/index.ts';
import Joi from 'joi';

const WEEKS_SHOWN = 26;
const WEEKS_BEFORE = 8;
/* As many are shown as it needs to see what was before the first request, but no more than two years. */
const MOST_WEEKS = 104;

/** How much less mail of lists comes in since unsubscribing. @throws Refusal */
export async function listInflow(context: Context, input: { mailboxId: number }): Promise<Inflow> {
	const mailbox = await requireMailboxId(context, input.mailboxId);
	const on = today(context);
	const asked = await listsAsked(context.db, mailbox.id);
	const ago = Math.max(0, ...asked.map((list) => Math.ceil(daysBetween(list.on, on) / 7)));
	const weeks = Math.min(MOST_WEEKS, Math.max(WEEKS_SHOWN, ago + WEEKS_BEFORE));
	const days = await listDays(context.db, mailbox.id, daysAfter(on, -7 * (weeks + WEEKS_BEFORE)));
	return inflowOf(days, asked, on, weeks);
}

/** The use cases of this file. */
export const inflowUseCases = [
	defineUseCase({
		name: 'listInflow',
		input: () => Joi.object({ mailboxId: id.required() }).required(),
		thread: 'heavy',
		right: 'administrator',
		run: listInflow
	})
] as const;
