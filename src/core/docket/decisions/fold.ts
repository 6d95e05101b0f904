import { type DecisionRule, ON_ITEM, tensed } from '../decision.ts';

/** Puts mail into the next digest, which archives it. */
export const fold: DecisionRule = {
	...ON_ITEM,
	deciders: ['administrator', 'owner'],
	from: ['live'],
	aspect: () => 'digest',
	standing: () => 'put into the next digest',
	verb: 'put into the digest',
	buttons: [{ label: 'Into the digest' }],
	sentence: (them, _said, tense) => `${tensed(tense, 'Put', 'Put')} ${them} into the next digest`,
	follows: () =>
		'The digest is one message; the single ones are archived when it is made, but for flagged and kept mail.'
};
