import type { DecisionOptions } from '../../../../core/docket/decision.ts';
import { type Sql, sql } from '../../database/index.ts';
import { type ItemWork, valueChange } from '../../docket/index.ts';
import { Refusal } from '../../refusal.ts';
import { beginRetention, findClass } from '../../standing/index.ts';

const numberIn = ({ class: given }: DecisionOptions): Sql | null =>
	given ? sql`(SELECT id FROM record_class WHERE word = ${given})` : null;

/** Sets the class of items, or their folder's class again. */
export const classify: ItemWork = {
	about: 'messages',
	async check({ db }, _mailbox, { options }) {
		if (!options.because?.trim()) throw new Refusal('bad-input', 'A change of class needs a reason. Nothing was done.');
		if (options.class && !(await findClass(db, options.class)))
			throw new Refusal('bad-input', `There is no class “${options.class}”. Nothing was done.`);
	},
	already: (options) => sql`item.own_class IS ${numberIn(options)}`,
	async begin({ db }, { docket }) {
		await beginRetention(db, docket.mailboxId);
		return undefined;
	},
	classesAs: async (_context, { line }) =>
		line.options.class ? { word: line.options.class, byFolder: false } : undefined,
	change: valueChange('own_class', numberIn, { changesDue: true })
};
