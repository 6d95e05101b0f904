import { type DecisionRule, ON_ITEM, tensed } from '../decision.ts';
import { tag } from './tag.ts';

/** Takes a tag off mail. */
export const untag: DecisionRule = {
	...ON_ITEM,
	// of adding and removing a tag, one is carried out
	aspect: tag.aspect,
	verb: 'untag',
	buttons: [{ label: 'Untag …', asks: 'tag' }],
	sentence: (them, { options = {} }, tense) =>
		`${tensed(tense, 'Take', 'Took')} the tag “${options.tag ?? ''}” off ${them}`
};
