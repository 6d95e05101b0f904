import { type DecisionRule, ON_PLACE, tensed } from '../decision.ts';

/** Brings archived and binned mail back to where it came from. */
export const restore: DecisionRule = {
	...ON_PLACE,
	from: ['archived', 'binned'],
	to: 'live',
	keeps: 7,
	deciders: ['administrator', 'owner', 'colleague'],
	screens: ['archive', 'bin', 'found'],
	digit: 9,
	verb: 'restore',
	buttons: [{ label: 'Restore' }],
	sentence: (them, { messages }, tense) =>
		`${tensed(tense, 'Restore', 'Restored')} ${them} to where ${messages === 1 ? 'it' : 'they'} came from`
};
