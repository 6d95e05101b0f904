import { type DecisionRule, ON_ITEM, tensed } from '../decision.ts';
import { tag } from './tag.ts';

/** Takes a tag off mail. */
export const untag: DecisionRule = {
	...ON_ITEM,
	deciders: ['administrator', 'owner'],
	// a tag is on the item, also in the bin
	from: ['live', 'archived', 'binned'],
	// of adding and removing a tag, one is carried out
	aspect: tag.aspect,
	standing: ({ tag: name = '' }) => `no longer tagged “${name}”`,
	verb: 'untag',
	buttons: [{ label: 'Remove tag …', asks: 'tag' }],
	sentence: (them, { options = {} }, tense) =>
		`${tensed(tense, 'Remove', 'Removed')} the tag “${options.tag ?? ''}” from ${them}`
};
