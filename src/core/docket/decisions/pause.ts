import { showDate } from '../../calendar.ts';
import { type DecisionRule, ON_ITEM, tensed } from '../decision.ts';

/** Protects mail from being deleted before a day (invariant 10). */
export const pause: DecisionRule = {
	...ON_ITEM,
	aspect: () => 'pause',
	shieldsFrom: (other) => other.takesAway,
	deciders: ['administrator', 'owner'],
	screens: ['sheet', 'due', 'own'],
	digit: 6,
	verb: 'pause',
	buttons: [{ label: 'Pause …', asks: 'pause' }],
	sentence: (them, { options = {} }, tense) =>
		`${tensed(tense, 'Pause', 'Paused')} ${them}: not to be deleted before ${showDate(options.until ?? '')}, because ${options.because ?? ''}`
};
