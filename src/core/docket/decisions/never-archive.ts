import { type DecisionRule, ON_ITEM, tensed } from '../decision.ts';

/** Protects mail from being archived (invariant 16). */
export const neverArchive: DecisionRule = {
	...ON_ITEM,
	deciders: ['administrator', 'owner'],
	from: ['live'],
	aspect: () => 'archiving',
	shieldsFrom: (other) => other.to === 'archived',
	standing: () => 'set never to be archived',
	verb: 'never archive',
	buttons: [{ label: 'Never archive' }],
	sentence: (them, _said, tense) => `${tensed(tense, 'Set', 'Set')} ${them} never to be archived`
};
