import { layoutWords, USUAL_LAYOUT } from '../../archive/layout.ts';
import { type DecisionRule, ON_PLACE, tensed } from '../decision.ts';

/** Moves archived mail within the archive: into one folder, or by the selected layout. */
export const arrange: DecisionRule = {
	...ON_PLACE,
	from: ['archived'],
	to: 'archived',
	keeps: 4,
	screens: ['archive'],
	verb: 'arrange anew',
	buttons: [{ label: 'Move within the archive …', asks: 'folder' }],
	sentence: (them, { options = {}, layout = USUAL_LAYOUT }, tense) =>
		options.folder
			? `${tensed(tense, 'Move', 'Moved')} ${them} within the archive to ${options.folder}`
			: `${tensed(tense, 'Arrange', 'Arranged')} the ${them} in the archive anew, ${layoutWords(layout)}`
};
