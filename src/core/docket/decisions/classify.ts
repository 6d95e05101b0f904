import { type DecisionRule, ON_ITEM, tensed } from '../decision.ts';

/** Changes the class of mail. */
export const classify: DecisionRule = {
	...ON_ITEM,
	aspect: () => 'class',
	// the docket to delete or destroy was drafted for the old class; binned mail is under no period
	shieldsFrom: (other) => other.takesAway && !other.from.includes('binned'),
	isBarredByHold: true,
	deciders: ['administrator', 'owner'],
	screens: ['sheet', 'due', 'own'],
	verb: 'change the class of',
	buttons: [{ label: 'Change class …', asks: 'class', says: (them) => `Change the class of ${them}` }],
	sentence: (them, { options = {}, className }, tense) =>
		options.class
			? `${tensed(tense, 'Class', 'Classed')} ${them} as ${className ?? options.class}, because ${options.because ?? ''}`
			: `${tensed(tense, 'Class', 'Classed')} ${them} as their folder says, because ${options.because ?? ''}`
};
