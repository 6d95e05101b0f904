import { type DecisionRule, ON_ITEM, tensed } from '../decision.ts';

/** Protects mail from being deleted, without a date. */
export const keep: DecisionRule = {
	...ON_ITEM,
	aspect: () => 'keep',
	shieldsFrom: (other) => other.takesAway,
	deciders: ['administrator', 'owner'],
	screens: ['sheet', 'due', 'own'],
	digit: 5,
	standing: () => 'kept',
	verb: 'keep',
	buttons: [{ label: 'Keep' }],
	sentence: (them, _said, tense) => `${tensed(tense, 'Keep', 'Kept')} ${them}`
};
