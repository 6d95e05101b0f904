import { isSameLayout, layoutWords, USUAL_LAYOUT } from '../../archive/layout.ts';
import { showDate } from '../../calendar.ts';
import { showCount } from '../../weigh/units.ts';
import { type DecisionRule, type LineFacts, ON_PLACE, tensed } from '../decision.ts';

/* The folders, the cutoff date and the layout, in words. */
function which({
	options = {},
	folderPath,
	withoutPaths = [],
	folders,
	messages,
	cutoff,
	layout = USUAL_LAYOUT
}: LineFacts): string {
	const from = folderPath
		? ` from ${folderPath}${folders > 1 ? ' and its subfolders' : ''}`
		: ` from ${showCount(folders)} ${folders === 1 ? 'folder' : 'folders'}`;
	const when = cutoff ? ` received before ${showDate(cutoff)}` : '';
	const how = options.folder
		? ` into ${options.folder}`
		: isSameLayout(layout, USUAL_LAYOUT)
			? ''
			: `, ${layoutWords(layout)}`;
	const out = withoutPaths.length > 0 ? `, leaving out ${withoutPaths.join(', ')}` : '';
	return `${messages > 0 ? from : ''}${when}${out}${how}`;
}

/** Puts mail into the archive, where it no longer counts against the quota. */
export const archive: DecisionRule = {
	...ON_PLACE,
	deciders: ['administrator', 'owner'],
	from: ['live'],
	to: 'archived',
	keeps: 6,
	frees: 'at once',
	protections: ['never-archived'],
	sparesRestored: true,
	screens: ['sheet', 'due'],
	digit: 1,
	canSpareNewest: true,
	standing: ({ folder }) => (folder ? `archived into ${folder}` : 'archived'),
	verb: 'archive',
	buttons: [
		{ label: 'Archive' },
		{ label: 'Archive into …', asks: 'folder', says: (them) => `Archive ${them} into it` }
	],
	sentence: (them, said, tense) => `${tensed(tense, 'Archive', 'Archived')} ${them}${which(said)}`
};
