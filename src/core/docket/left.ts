import { showMessages } from '../weigh/units.ts';
import { type Protection, PROTECTIONS } from './decision.ts';

/** Why a decision leaves an item as it is. */
export const LEFT_REASONS = {
	newer: 'received on or after the cutoff date',
	'date-in-doubt': 'date missing or cannot be true: a person decides',
	binned: 'in the bin',
	archived: 'already archived',
	live: 'already in a folder',
	destroyed: 'destroyed',
	held: 'under a hold',
	record: 'a record: it goes at the end of its period, unless its class is changed first',
	'not-due': 'its period has not ended',
	'had-back': 'restored within the last 30 days',
	flagged: 'flagged',
	kept: 'kept',
	paused: 'under a pause',
	'never-archived': 'set never to be archived',
	'in-review': 'their owner still reviews them',
	newest: 'among the newest of their lot',
	already: 'already as the decision would make them',
	'on-server': 'on their mail server again',
	needed: 'the message that repeats them is gone, or goes too',
	outranked: 'another line decides on them',
	changed: 'changed since'
} as const;
export type LeftReason = keyof typeof LEFT_REASONS;

/** Messages that a docket leaves for one reason. */
export interface Left {
	reason: LeftReason;
	messages: number;
	/** The names of the holds, for messages under a hold. */
	holds?: string[] | undefined;
}

/** The protection for which a line leaves items. */
export function protectionOf(reason: LeftReason): Protection | undefined {
	return PROTECTIONS.find((protection) => protection === reason);
}

/** The messages that stay, as a sentence. */
export function leftSentence(left: Left): string {
	const { reason, messages, holds = [] } = left;
	if (reason === 'held' && holds.length > 0)
		return `${showMessages(messages)} ${messages === 1 ? 'is' : 'are'} under ${
			holds.length === 1 ? `the hold “${holds[0]}”` : `holds (${holds.map((name) => `“${name}”`).join(', ')})`
		} and ${messages === 1 ? 'stays' : 'stay'}.`;
	return `${showMessages(messages)} ${messages === 1 ? 'stays' : 'stay'}: ${LEFT_REASONS[reason]}.`;
}
