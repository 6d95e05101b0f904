import { archive, arrange, destroy, restore, toBin } from '../archive/index.ts';
import type { DecisionTable } from '../docket/index.ts';
import {
	allowArchiving,
	flag,
	fold,
	keep,
	move,
	neverArchive,
	read,
	release,
	tag,
	unflag,
	unfold,
	unread,
	untag
} from '../filing/index.ts';
import { block, digest, unsubscribe } from '../lists/index.ts';
import { classify, dispose, pause, resume, retain } from '../retention/index.ts';

/** The effect of every decision, from the rooms of their capabilities. */
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
	'never-archive': neverArchive,
	'allow-archiving': allowArchiving,
	fold,
	unfold,
	pause,
	resume,
	classify,
	retain,
	unsubscribe,
	block,
	digest
};
