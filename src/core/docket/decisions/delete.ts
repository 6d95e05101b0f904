import { showCount } from '../../weigh/units.ts';
import { type DecisionRule, ON_PLACE, tensed } from '../decision.ts';

/** Puts mail into the bin, from which it can be restored until the bin is emptied (invariant 7). */
export const toBin: DecisionRule = {
	...ON_PLACE,
	deciders: ['administrator', 'owner'],
	from: ['live'],
	to: 'binned',
	keeps: 3,
	frees: 'when the bin is emptied',
	takesAway: true,
	protections: ['kept', 'paused', 'flagged'],
	isBarredByHold: true,
	isBarredForRecords: () => true,
	digit: 2,
	canSpareNewest: true,
	standing: () => 'deleted',
	verb: 'delete',
	buttons: [{ label: 'Delete' }],
	sentence: (them, _said, tense) => `${tensed(tense, 'Delete', 'Deleted')} ${them}`,
	follows: ({ binDays }) =>
		`Deleting takes them out of every tag and view. They stay in the bin for ${showCount(binDays)} days and can be restored until then; their room is free only after that.`
};
