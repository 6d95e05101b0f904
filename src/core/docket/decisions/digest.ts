import { type ListRule, listsInWords, ON_LISTS, tensed } from '../decision.ts';

/** Folds future mail of lists into one message a day. */
export const digest: ListRule = {
	...ON_LISTS,
	aspect: () => 'digest',
	verb: 'fold into the digest',
	buttons: [{ label: 'Fold into the digest' }],
	sentence: (_them, said, tense) => `${tensed(tense, 'Fold', 'Folded')} into the digest ${listsInWords(said)}`,
	follows: () => 'Their mail to come is folded into one message, and the single issues are archived.'
};
