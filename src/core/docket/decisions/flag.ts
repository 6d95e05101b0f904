import { type DecisionRule, ON_ITEM, tensed } from '../decision.ts';

/** Flags mail. */
export const flag: DecisionRule = {
	...ON_ITEM,
	deciders: ['administrator', 'owner'],
	aspect: () => 'flag',
	digit: 7,
	standing: () => 'flagged',
	verb: 'flag',
	buttons: [{ label: 'Flag' }],
	sentence: (them, _said, tense) => `${tensed(tense, 'Flag', 'Flagged')} ${them}`
};
