import { type DecisionRule, ON_PLACE, tensed } from '../decision.ts';

/** Puts mail into another folder. */
export const move: DecisionRule = {
	...ON_PLACE,
	deciders: ['administrator', 'owner'],
	from: ['live'],
	to: 'live',
	keeps: 5,
	digit: 3,
	standing: ({ folder = '' }) => `moved to ${folder}`,
	verb: 'move',
	buttons: [{ label: 'Move …', asks: 'folder' }],
	sentence: (them, { options = {} }, tense) => `${tensed(tense, 'Move', 'Moved')} ${them} to ${options.folder ?? ''}`
};
