import { classNumber } from '../../../../core/retention/classes.ts';
import type { DecisionOptions } from '../../../../core/docket/decision.ts';
import { sql } from '../../database/index.ts';
import { type ItemWork, valueChange } from '../../docket/index.ts';
import { Refusal } from '../../refusal.ts';
import { beginRetention } from '../../standing/index.ts';

const numberIn = ({ class: given }: DecisionOptions) => (given ? classNumber(given) : null);

/** Sets the class of items, or their folder's class again. */
export const classify: ItemWork = {
	about: 'messages',
	check(_context, _mailbox, { options }) {
		if (!options.because?.trim()) throw new Refusal('bad-input', 'A change of class needs a reason. Nothing was done.');
	},
	already: (options) => sql`item.own_class IS ${numberIn(options)}`,
	async begin({ db }, { docket }) {
		await beginRetention(db, docket.mailboxId);
		return undefined;
	},
	makesWorking: async (_context, { line }) => line.options.class === 'working',
	change: valueChange('own_class', numberIn, { changesDue: true })
};
