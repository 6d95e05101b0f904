import { type DecisionRule, ON_ITEM, tensed } from '../decision.ts';

/** Marks mail as read. */
export const read: DecisionRule = {
	...ON_ITEM,
	deciders: ['administrator', 'owner'],
	aspect: () => 'read',
	digit: 8,
	standing: () => 'marked as read',
	verb: 'mark as read',
	buttons: [{ label: 'Mark read' }],
	sentence: (them, _said, tense) => `${tensed(tense, 'Mark', 'Marked')} ${them} as read`
};
