import { type DecisionRule, tensed } from '../decision.ts';
import { tag } from './tag.ts';

/** Takes a tag off mail. */
export const untag: DecisionRule = {
	...tag,
	digit: 9,
	verb: 'untag',
	buttons: [{ label: 'Untag …', asks: 'tag' }],
	sentence: (them, { options = {} }, tense) =>
		`${tensed(tense, 'Take', 'Took')} the tag “${options.tag ?? ''}” off ${them}`
};
