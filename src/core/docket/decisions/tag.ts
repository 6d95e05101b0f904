import { tagKey } from '../../tags/names.ts';
import { type DecisionRule, ON_ITEM } from '../decision.ts';

/** Puts a tag on mail. */
export const tag: DecisionRule = {
	...ON_ITEM,
	// each tag for itself, whether it is put on or taken off
	aspect: ({ tag: name = '' }) => `tag ${tagKey(name)}`,
	digit: 4,
	verb: 'tag',
	buttons: [{ label: 'Tag …', asks: 'tag' }],
	sentence: (them, { options = {} }) => `Put the tag “${options.tag ?? ''}” on ${them}`
};
