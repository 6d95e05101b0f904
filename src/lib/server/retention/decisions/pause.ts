import { readDate } from '../../../../core/calendar.ts';
import { today } from '../../context/index.ts';
import { sql } from '../../database/index.ts';
import { type ItemWork, putLineOptions, valueChange } from '../../docket/index.ts';
import { Refusal } from '../../refusal.ts';
import { addPause } from '../../standing/index.ts';

const refuse = (sentence: string) => new Refusal('bad-input', `${sentence} Nothing was done.`);

/** Puts items under one pause. */
export const pause: ItemWork = {
	about: 'messages',
	check(context, _mailbox, { options }) {
		if (readDate(options.until ?? '') === undefined || (options.until as string) <= today(context))
			throw refuse('A pause ends on a day that is still to come.');
		if (!options.because?.trim()) throw refuse('A pause needs a reason.');
	},
	async begin(context, { docket, line }) {
		const pauseId = await addPause(context.db, {
			mailboxId: docket.mailboxId,
			folderId: null,
			until: line.options.until ?? '',
			because: line.options.because ?? '',
			madeBy: context.actor.name,
			madeAt: context.now().toISOString()
		});
		await putLineOptions(context.db, line.id, { ...line.options, pauseId });
		return undefined;
	},
	change: valueChange('pause_id', ({ pauseId }) => pauseId ?? null)
};

/** Ends the pause of items; their folder's stays. */
export const resume: ItemWork = {
	about: 'messages',
	already: () => sql`item.pause_id IS NULL`,
	change: valueChange('pause_id', () => null)
};
