import { type DecisionRule, ON_PLACE, tensed } from '../decision.ts';

/** Brings archived and binned mail back to where it came from, or into a folder that is named. */
export const restore: DecisionRule = {
	...ON_PLACE,
	from: ['archived', 'binned'],
	to: 'live',
	keeps: 7,
	deciders: ['administrator', 'owner', 'colleague'],
	screens: ['archive', 'bin', 'found'],
	digit: 9,
	verb: 'restore',
	buttons: [{ label: 'Restore' }, { label: 'Restore to …', asks: 'folder', says: (them) => `Restore ${them} to it` }],
	sentence: (them, { messages, options = {} }, tense) =>
		`${tensed(tense, 'Restore', 'Restored')} ${them} to ${options.folder ?? `where ${messages === 1 ? 'it' : 'they'} came from`}`
};
