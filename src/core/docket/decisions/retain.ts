import { termsWords } from '../../retention/sentences.ts';
import { readTerms } from '../../retention/terms.ts';
import { type DecisionRule, ON_ITEM, tensed } from '../decision.ts';

/** Puts mail under a period of its own, or under a series. */
export const retain: DecisionRule = {
	...ON_ITEM,
	aspect: () => 'retention',
	// the docket to delete or destroy was drafted for the old period; binned mail is under no period
	shieldsFrom: (other) => other.takesAway && !other.from.includes('binned'),
	// a record follows its series: its own period would have no effect
	isBarredForRecords: ({ terms }) => terms !== undefined,
	deciders: ['administrator', 'owner'],
	screens: ['sheet', 'due', 'own'],
	verb: 'change the period of',
	buttons: [
		{ label: 'Change period …', asks: 'period', says: (them) => `Give ${them} this period` },
		{ label: 'Put under a series …', asks: 'series', says: (them) => `Put ${them} under it` }
	],
	sentence: (them, { options = {} }, tense) => {
		if (options.series) return `Put ${them} under the series ${options.series}`;
		return options.terms
			? `${tensed(tense, 'Have', 'Had')} ${them} be ${termsWords(readTerms(options.terms))}`
			: `${tensed(tense, 'Give', 'Gave')} ${them} the period of their folder again`;
	}
};
