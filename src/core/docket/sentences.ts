import type { Weight } from '../weigh/tree.ts';
import { showBytes, showCount, showMessages } from '../weigh/units.ts';
import type { LineFacts, ListAsk, Protection, Tense } from './decision.ts';
import { type Decision, ruleOf } from './decisions.ts';

const ONLY: Record<Protection, string> = {
	flagged: 'flagged ',
	kept: 'kept ',
	paused: 'paused ',
	'never-archived': 'never-archived '
};

/**
 * A line as a sentence: "Archive 4,812 messages from 37 folders received before 1 January 2024 (1.9 GB)."
 *
 * @param tense whether it was carried out
 */
export function lineSentence(decision: Decision, said: LineFacts, tense: Tense = 'to come'): string {
	const rule = ruleOf(decision);
	const { options = {}, messages, bytes, label } = said;
	if (rule.about === 'lists') return `${rule.sentence('', said, tense)}.`;
	const only = options.only ? ONLY[options.only] : '';
	const noun = messages === 1 ? 'message' : 'messages';
	const which = label ? ` ${label}` : '';
	const newest = options.keepNewest ? `, all but the newest ${showCount(options.keepNewest)} of each` : '';
	const them = `${showCount(messages)} ${only}${noun}${which}${newest}`;
	return `${rule.sentence(them, said, tense)} (${showBytes(bytes)}).`;
}

/** The consequences of a decision that are not obvious; empty if there are none. */
export function consequence(
	decision: Decision,
	{ elsewhere, binDays }: { elsewhere: number; binDays: number }
): string {
	return [ruleOf(decision).follows({ binDays }), elsewhereSentence(decision, elsewhere)].filter(Boolean).join(' ');
}

/** In how many other places messages that a decision takes away still lie (invariant 4); empty: in none. */
export function elsewhereSentence(decision: Decision, elsewhere: number): string {
	if (!ruleOf(decision).takesAway || elsewhere === 0) return '';
	const one = elsewhere === 1;
	return `${showCount(elsewhere)} of them ${one ? 'lies' : 'lie'} in another place as well, and ${one ? 'stays' : 'stay'} there.`;
}

/** What a docket meant when it was counted, and what it means now: "it meant 876 messages (2.09 MB), now it means 898 (2.14 MB)". */
export function changedSentence(counted: Weight, now: Weight): string {
	return `The mailbox has changed since this docket was drafted: it meant ${showMessages(counted.messages)} (${showBytes(counted.bytes)}), now it means ${showCount(now.messages)} (${showBytes(now.bytes)}).`;
}

/** Items that two lines of a docket both apply to. */
export interface Conflict {
	/** Positions of the lines on the docket, from 1. */
	wins: number;
	loses: number;
	messages: number;
}

/** A conflict as a sentence. */
export function conflictSentence(
	{ wins, loses, messages }: Conflict,
	decisions: { wins: Decision; loses: Decision }
): string {
	const why =
		decisions.wins === decisions.loses
			? 'the later decision stands'
			: `to ${ruleOf(decisions.wins).verb} keeps more than to ${ruleOf(decisions.loses).verb}`;
	return `${showMessages(messages)} ${messages === 1 ? 'is' : 'are'} claimed by lines ${Math.min(wins, loses)} and ${Math.max(wins, loses)}: line ${wins} decides, as ${why}.`;
}

/** The message to a list, in words: "Mail to leave@x.example, subject “leave”." */
export function askSentence({ list, way, to, subject, text }: ListAsk): string {
	if (way === 'one-click') return `${list}: one-click request to ${hostOf(to)}.`;
	const said = [subject && `subject “${subject}”`, text && text !== subject ? `text “${text}”` : ''].filter(Boolean);
	return `${list}: mail to ${to}${said.length > 0 ? `, ${said.join(', ')}` : ''}.`;
}

/* core/ has no URL parser; people know an address by the name between its slashes */
const hostOf = (url: string) => /^https?:\/\/([^/?#]*)/i.exec(url)?.[1] ?? url;
