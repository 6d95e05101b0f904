import { showCount } from '../../weigh/units.ts';
import { type LineFacts, type ListRule, listsInWords, ON_LISTS, tensed } from '../decision.ts';

/* Whom Kovrel asks, and for which lists a person has to open a link. */
function ways({ lists = 0, options = {} }: LineFacts): string {
	const byHand = options.byHand ?? 0;
	const asked = lists - byHand;
	return [
		...(asked > 0 ? [`Kovrel asks ${showCount(asked)} to stop`] : []),
		...(byHand > 0 ? [`${showCount(byHand)} can only be left by opening a link, by hand`] : [])
	].join('; ');
}

/** Asks lists to send nothing more. */
export const unsubscribe: ListRule = {
	...ON_LISTS,
	aspect: () => 'unsubscribe',
	takenBack: 'until sent',
	verb: 'unsubscribe',
	buttons: [{ label: 'Unsubscribe' }],
	sentence: (_them, said, tense) =>
		`${tensed(tense, 'Unsubscribe', 'Unsubscribed')} from ${listsInWords(said)}. ${ways(said)}`,
	follows: () => 'A request to a list cannot be taken back; you would have to subscribe again.'
};
