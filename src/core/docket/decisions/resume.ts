import { type DecisionRule, ON_ITEM, tensed } from '../decision.ts';

/** Ends the pause of mail. */
export const resume: DecisionRule = {
	...ON_ITEM,
	deciders: ['administrator', 'owner'],
	aspect: () => 'pause',
	verb: 'end the pause of',
	buttons: [{ label: 'End the pause' }],
	sentence: (them, _said, tense) => `${tensed(tense, 'End', 'Ended')} the pause of ${them}`
};
