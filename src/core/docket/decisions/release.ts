import { type DecisionRule, ON_ITEM, tensed } from '../decision.ts';

/** Ends the protection of kept mail. */
export const release: DecisionRule = {
	...ON_ITEM,
	deciders: ['administrator', 'owner'],
	aspect: () => 'keep',
	verb: 'keep no longer',
	buttons: [{ label: 'Keep no longer' }],
	sentence: (them, _said, tense) => `${tensed(tense, 'Keep', 'Kept')} ${them} no longer`
};
