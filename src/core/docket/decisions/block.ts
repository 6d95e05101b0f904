import { type ListRule, listsInWords, ON_LISTS, tensed } from '../decision.ts';

/** Puts future mail of lists into junk. */
export const block: ListRule = {
	...ON_LISTS,
	aspect: () => 'block',
	verb: 'block',
	buttons: [{ label: 'Block' }],
	sentence: (_them, said, tense) => `${tensed(tense, 'Block', 'Blocked')} ${listsInWords(said)}`,
	follows: () => 'Their mail to come goes to junk. Taking the docket back ends that.'
};
