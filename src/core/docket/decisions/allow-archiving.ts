import { type DecisionRule, ON_ITEM, tensed } from '../decision.ts';

/** Ends the protection of mail from being archived; that of its folder stays. */
export const allowArchiving: DecisionRule = {
	...ON_ITEM,
	deciders: ['administrator', 'owner'],
	from: ['live'],
	aspect: () => 'archiving',
	verb: 'allow to be archived',
	buttons: [{ label: 'Allow archiving' }],
	sentence: (them, _said, tense) => `${tensed(tense, 'Allow', 'Allowed')} ${them} to be archived`
};
