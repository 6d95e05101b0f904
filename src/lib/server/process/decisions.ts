import { archive } from '../archive/decisions/archive.ts';
import { arrange } from '../archive/decisions/arrange.ts';
import { toBin } from '../archive/decisions/delete.ts';
import { destroy } from '../archive/decisions/destroy.ts';
import { restore } from '../archive/decisions/restore.ts';
import type { DecisionTable } from '../docket/decision-work.ts';
import { flag, keep, read, release, unflag, unread } from '../filing/marks.ts';
import { move } from '../filing/move.ts';
import { tag, untag } from '../filing/tag.ts';
import { block } from '../lists/decisions/block.ts';
import { digest } from '../lists/decisions/digest.ts';
import { unsubscribe } from '../lists/decisions/unsubscribe.ts';
import { classify } from '../retention/decisions/classify.ts';
import { dispose } from '../retention/decisions/dispose.ts';
import { pause, resume } from '../retention/decisions/pause.ts';
import { retain } from '../retention/decisions/retain.ts';

/** What every decision does, from the rooms of their capabilities. */
export const decisions: DecisionTable = {
	archive,
	restore,
	arrange,
	move,
	delete: toBin,
	dispose,
	destroy,
	tag,
	untag,
	flag,
	unflag,
	read,
	unread,
	keep,
	release,
	pause,
	resume,
	classify,
	retain,
	unsubscribe,
	block,
	digest
};
