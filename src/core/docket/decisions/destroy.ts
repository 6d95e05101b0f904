import { DESTROYS, type DecisionRule, tensed } from '../decision.ts';

/** Destroys mail that lies in the bin. */
export const destroy: DecisionRule = {
	...DESTROYS,
	from: ['binned'],
	keeps: 1,
	screens: ['bin'],
	verb: 'destroy',
	buttons: [{ label: 'Destroy' }],
	sentence: (them, _said, tense) => `${tensed(tense, 'Destroy', 'Destroyed')} ${them} in the bin for good`
};
