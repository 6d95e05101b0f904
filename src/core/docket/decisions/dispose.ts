import { DESTROYS, type DecisionRule, tensed } from '../decision.ts';

/** Destroys mail whose retention period has ended, without going through the bin. */
export const dispose: DecisionRule = {
	...DESTROYS,
	from: ['live', 'archived'],
	keeps: 2,
	needsEndedPeriod: true,
	screens: ['due'],
	verb: 'destroy',
	buttons: [{ label: 'Destroy', says: (them) => `Destroy ${them}: a docket of its own` }],
	sentence: (them, _said, tense) => `${tensed(tense, 'Destroy', 'Destroyed')} ${them} for good`
};
