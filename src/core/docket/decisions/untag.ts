import { type DecisionRule, ON_ITEM, tensed } from '../decision.ts';
import { tag } from './tag.ts';

/** Takes a tag off mail. */
export const untag: DecisionRule = {
	...ON_ITEM,
	// of putting a tag on and taking it off, one is carried out
	aspect: tag.aspect,
	verb: 'untag',
	buttons: [{ label: 'Untag …', asks: 'tag' }],
	sentence: (them, { options = {} }, tense) =>
		`${tensed(tense, 'Take', 'Took')} the tag “${options.tag ?? ''}” off ${them}`
};
