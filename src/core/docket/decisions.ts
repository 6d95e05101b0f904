import type { Decider, DecisionOptions, DecisionRule, ItemState, Screen } from './decision.ts';
import { allowArchiving } from './decisions/allow-archiving.ts';
import { archive } from './decisions/archive.ts';
import { arrange } from './decisions/arrange.ts';
import { block } from './decisions/block.ts';
import { classify } from './decisions/classify.ts';
import { destroy } from './decisions/destroy.ts';
import { digest } from './decisions/digest.ts';
import { dispose } from './decisions/dispose.ts';
import { flag } from './decisions/flag.ts';
import { fold } from './decisions/fold.ts';
import { keep } from './decisions/keep.ts';
import { move } from './decisions/move.ts';
import { neverArchive } from './decisions/never-archive.ts';
import { pause } from './decisions/pause.ts';
import { read } from './decisions/read.ts';
import { release } from './decisions/release.ts';
import { restore } from './decisions/restore.ts';
import { resume } from './decisions/resume.ts';
import { retain } from './decisions/retain.ts';
import { tag } from './decisions/tag.ts';
import { toBin } from './decisions/delete.ts';
import { unflag } from './decisions/unflag.ts';
import { unfold } from './decisions/unfold.ts';
import { unread } from './decisions/unread.ts';
import { unsubscribe } from './decisions/unsubscribe.ts';
import { untag } from './decisions/untag.ts';

/* All decisions, by the name under which they are stored. */
const RULES = {
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
} satisfies Record<string, DecisionRule>;

/** The name of a decision. */
export type Decision = keyof typeof RULES;

/** The name of a decision on lists. */
export type ListDecision = {
	[D in Decision]: (typeof RULES)[D] extends { about: 'lists' } ? D : never;
}[Decision];

/** The rule and the words of a decision. */
export function ruleOf(decision: Decision): DecisionRule {
	return RULES[decision];
}

/** In which tree the folder of its options lies. */
export const treeOf = (decision: Decision): 'mailbox' | 'archive' =>
	ruleOf(decision).to === 'archived' ? 'archive' : 'mailbox';

/** Every decision. */
export const DECISIONS = Object.keys(RULES) as Decision[];

/* All decisions, those with a digit first, in the order of the digits. */
function inOrder(decisions: Decision[]): Decision[] {
	const place = (decision: Decision) => ruleOf(decision).digit ?? Infinity;
	return decisions.sort((a, b) => (place(a) === place(b) ? 0 : place(a) - place(b)));
}

/** The decisions that a screen offers, those with a digit first. */
export function decisionsOn(screen: Screen): Decision[] {
	return inOrder(DECISIONS.filter((decision) => ruleOf(decision).screens.includes(screen)));
}

/** Whether a decision is offered to somebody for an item in a state. */
export function isOffered(decision: Decision, state: ItemState, decider: Decider): boolean {
	const { from, deciders } = ruleOf(decision);
	return from.includes(state) && deciders.includes(decider);
}

/** Whether a decision may be carried out at once, because it can be taken back. */
export function isReversible(decision: Decision): boolean {
	const { about, takenBack } = ruleOf(decision);
	return about === 'messages' && takenBack === 'always';
}

/** Whether a decision is on the lists that send messages. */
export function isAboutLists(decision: string): decision is ListDecision {
	return (DECISIONS as readonly string[]).includes(decision) && ruleOf(decision as Decision).about === 'lists';
}

/** The largest number of messages on which a reversible decision is carried out at once, unless a person sets another. */
export const AT_ONCE = 100;
/** The largest that a person may set: more than that is looked at on the docket first. */
export const MOST_AT_ONCE = 1_000;

/** The row of decisions on messages in some states: every reversible one that somebody may make on any of them. */
export function decisionsFor(states: readonly ItemState[], decider: Decider): Decision[] {
	return inOrder(
		DECISIONS.filter(
			(decision) => isReversible(decision) && states.some((state) => isOffered(decision, state, decider))
		)
	);
}

/** What is compared of two lines. */
export interface ComparedLine {
	decision: Decision;
	options: DecisionOptions;
}

const shields = (line: ComparedLine, other: ComparedLine) =>
	other.options.only === undefined && ruleOf(line.decision).shieldsFrom?.(ruleOf(other.decision)) === true;

/**
 * Which of two lines decides on an item in both: the one that keeps more, else the later one.
 *
 * @param earlier stands before the other on the docket
 * @returns undefined where both can be carried out
 */
export function winner(earlier: ComparedLine, later: ComparedLine): 'earlier' | 'later' | undefined {
	if (shields(earlier, later)) return 'earlier';
	if (shields(later, earlier)) return 'later';
	const [a, b] = [ruleOf(earlier.decision), ruleOf(later.decision)];
	if (a.aspect(earlier.options) !== b.aspect(later.options)) return undefined;
	return (a.keeps ?? 0) > (b.keeps ?? 0) ? 'earlier' : 'later';
}
