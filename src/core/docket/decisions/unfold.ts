import { type DecisionRule, ON_ITEM, tensed } from '../decision.ts';

/** Takes mail out of the next digest. */
export const unfold: DecisionRule = {
	...ON_ITEM,
	deciders: ['administrator', 'owner'],
	from: ['live'],
	aspect: () => 'digest',
	verb: 'take out of the digest',
	buttons: [{ label: 'Out of the digest' }],
	sentence: (them, _said, tense) => `${tensed(tense, 'Take', 'Took')} ${them} out of the next digest`
};
