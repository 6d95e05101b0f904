import { type DecisionRule, ON_ITEM, tensed } from '../decision.ts';

/** Takes the flag off mail. */
export const unflag: DecisionRule = {
	...ON_ITEM,
	deciders: ['administrator', 'owner'],
	aspect: () => 'flag',
	standing: () => 'no longer flagged',
	verb: 'unflag',
	buttons: [{ label: 'Take the flag off' }],
	sentence: (them, _said, tense) => `${tensed(tense, 'Take', 'Took')} the flag off ${them}`
};
