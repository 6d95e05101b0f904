import { tagKey } from '../../tags/names.ts';
import { type DecisionRule, ON_ITEM } from '../decision.ts';

/** Puts a tag on mail. */
export const tag: DecisionRule = {
	...ON_ITEM,
	deciders: ['administrator', 'owner'],
	// a tag is on the item, also in the bin
	from: ['live', 'archived', 'binned'],
	// each tag is an aspect of its own, added or removed
	aspect: ({ tag: name = '' }) => `tag ${tagKey(name)}`,
	digit: 4,
	standing: ({ tag: name = '' }) => `tagged “${name}”`,
	verb: 'tag',
	buttons: [{ label: 'Tag …', asks: 'tag' }],
	sentence: (them, { options = {} }) => `Put the tag “${options.tag ?? ''}” on ${them}`
};
