import { type DecisionRule, ON_ITEM, tensed } from '../decision.ts';

/** Marks mail as unread. */
export const unread: DecisionRule = {
	...ON_ITEM,
	deciders: ['administrator', 'owner'],
	aspect: () => 'read',
	verb: 'mark as unread',
	buttons: [{ label: 'Mark unread' }],
	sentence: (them, _said, tense) => `${tensed(tense, 'Mark', 'Marked')} ${them} as unread`
};
