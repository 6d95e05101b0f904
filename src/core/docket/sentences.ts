import { type Layout, layoutWords, USUAL_LAYOUT } from '../archive/layout.ts';
import { type CalendarDate, showDate } from '../calendar.ts';
import { showBytes, showCount, showMessages } from '../weigh/units.ts';
import { CLASS_WORDS } from '../retention/classes.ts';
import { termsWords } from '../retention/sentences.ts';
import { readTerms } from '../retention/terms.ts';
import {
	type Decision,
	type DecisionOptions,
	isForGood,
	isOnLists,
	type ListAsk,
	type Protection,
	protectionsFrom
} from './decisions.ts';
import { isBarredByHold, LEFT_REASONS, type Left } from './effects.ts';

/** What is said of a line of a docket. */
export interface LineSaid {
	decision: Decision;
	options?: DecisionOptions | undefined;
	messages: number;
	bytes: number;
	folders: number;
	/** Only for archiving by date. */
	cutoff?: CalendarDate | undefined;
	/** Path of the folder it is limited to, with its subfolders; undefined: the whole mailbox. */
	folderPath?: string | undefined;
	/** Which ones, in words, where a lot or a search chose them: `of the list Harbour Times`. */
	label?: string | undefined;
	/** Where archived items go. */
	layout?: Layout | undefined;
	/** How many lists a decision on lists is about. */
	lists?: number | undefined;
}

const ONLY: Record<Protection, string> = { flagged: 'flagged ', kept: 'kept ', paused: 'paused ' };

const whose = (messages: number) => (messages === 1 ? 'it' : 'they');

function listSentence({ decision, options = {}, lists = 0, label = '' }: LineSaid): string {
	const them = `${showCount(lists)} ${lists === 1 ? 'list' : 'lists'}${label ? `: ${label}` : ''}`;
	if (decision === 'block') return `Block ${them}`;
	if (decision === 'digest') return `Fold into the digest ${them}`;
	const byHand = options.byHand ?? 0;
	const asked = lists - byHand;
	return `Unsubscribe from ${them}. ${asked > 0 ? `Kovrel asks ${showCount(asked)} to stop` : ''}${asked > 0 && byHand > 0 ? '; ' : ''}${
		byHand > 0 ? `${showCount(byHand)} can only be left by opening a link, by hand` : ''
	}`;
}

/* What is done, with `them` for the messages and what is said of which ones. */
function verb(said: LineSaid, them: string): string {
	const { decision, options = {}, messages } = said;
	switch (decision) {
		case 'restore':
			return `Restore ${them} to where ${whose(messages)} came from`;
		case 'arrange':
			return options.folder
				? `Move ${them} within the archive to ${options.folder}`
				: `Arrange the ${them} in the archive anew, ${layoutWords(said.layout ?? USUAL_LAYOUT)}`;
		case 'delete':
			return `Delete ${them}`;
		case 'destroy':
			return `Destroy ${them} in the bin for good`;
		case 'move':
			return `Move ${them} to ${options.folder ?? ''}`;
		case 'dispose':
			return `Destroy ${them} for good`;
		case 'tag':
			return `Put the tag “${options.tag ?? ''}” on ${them}`;
		case 'untag':
			return `Take the tag “${options.tag ?? ''}” off ${them}`;
		case 'flag':
			return `Flag ${them}`;
		case 'unflag':
			return `Take the flag off ${them}`;
		case 'read':
			return `Mark ${them} as read`;
		case 'unread':
			return `Mark ${them} as unread`;
		case 'keep':
			return `Keep ${them}`;
		case 'release':
			return `Keep ${them} no longer`;
		case 'pause':
			return `Pause ${them}: not to be deleted before ${showDate(options.until ?? '')}, because ${options.because ?? ''}`;
		case 'resume':
			return `End the pause of ${them}`;
		case 'classify':
			return options.class
				? `Class ${them} as ${CLASS_WORDS[options.class].words}, because ${options.because ?? ''}`
				: `Class ${them} as their folder says, because ${options.because ?? ''}`;
		case 'retain':
			return options.series
				? `Put ${them} under the series ${options.series}`
				: options.terms
					? `Have ${them} be ${termsWords(readTerms(options.terms))}`
					: `Give ${them} the period of their folder again`;
		case 'archive':
			return `Archive ${them}`;
		case 'unsubscribe':
		case 'block':
		case 'digest':
			return listSentence(said);
	}
}

/** A line as a sentence: "Archive 4,812 messages from 37 folders received before 1 January 2024 (1.9 GB)." */
export function lineSentence(said: LineSaid): string {
	const { decision, options = {}, messages, bytes, folders, cutoff, folderPath, label, layout = USUAL_LAYOUT } = said;
	if (isOnLists(decision)) return `${listSentence(said)}.`;
	const only = options.only ? ONLY[options.only] : '';
	const noun = messages === 1 ? 'message' : 'messages';
	const which = label ? ` ${label}` : '';
	const newest = options.keepNewest ? `, all but the newest ${showCount(options.keepNewest)} of each` : '';
	const them = `${showCount(messages)} ${only}${noun}${which}${newest}`;
	if (decision !== 'archive') return `${verb(said, them)} (${showBytes(bytes)}).`;
	const from = folderPath
		? ` from ${folderPath}${folders > 1 ? ` and its subfolders` : ''}`
		: ` from ${showCount(folders)} ${folders === 1 ? 'folder' : 'folders'}`;
	const when = cutoff ? ` received before ${showDate(cutoff)}` : '';
	const how = layout.paths === 'keep' && layout.divide === 'none' ? '' : `, ${layoutWords(layout)}`;
	return `${verb(said, them)}${messages > 0 ? from : ''}${when}${how} (${showBytes(bytes)}).`;
}

/** What follows from a decision, as far as it does not go without saying; empty where it does. */
export function consequence(
	decision: Decision,
	{ elsewhere, binDays }: { elsewhere: number; binDays: number }
): string {
	const copies =
		elsewhere > 0
			? ` ${showCount(elsewhere)} of them ${elsewhere === 1 ? 'lies' : 'lie'} in another place as well, and ${elsewhere === 1 ? 'stays' : 'stay'} there.`
			: '';
	if (decision === 'delete')
		return `Deleting takes them out of every tag and view. They stay in the bin for ${showCount(binDays)} days and can be restored until then; their room is free only after that.${copies}`;
	if (decision === 'unsubscribe') return 'A request to a list cannot be taken back; you would have to subscribe again.';
	if (decision === 'block') return 'Their mail to come goes to junk. Taking the docket back ends that.';
	if (decision === 'digest')
		return 'Their mail to come is folded into one message, and the single issues are archived.';
	if (isForGood(decision)) return `This cannot be undone: nobody can restore them, not even an administrator.${copies}`;
	return '';
}

/** What stays, as a sentence. */
export function leftSentence(left: Left): string {
	const { reason, messages, holds = [] } = left;
	if (reason === 'held' && holds.length > 0)
		return `${showMessages(messages)} ${messages === 1 ? 'is' : 'are'} under ${
			holds.length === 1 ? `the hold “${holds[0]}”` : `holds (${holds.map((name) => `“${name}”`).join(', ')})`
		} and ${messages === 1 ? 'stays' : 'stay'}.`;
	return `${showMessages(messages)} ${messages === 1 ? 'stays' : 'stay'}: ${LEFT_REASONS[reason]}.`;
}

/** Items that two lines of a docket both claim. */
export interface Conflict {
	/** Positions of the lines on the docket, from 1. */
	wins: number;
	loses: number;
	messages: number;
}

/* Where the word of a decision is not what people call it. */
const VERBS: Partial<Record<Decision, string>> = {
	arrange: 'arrange anew',
	dispose: 'destroy',
	untag: 'untag',
	read: 'mark as read',
	unread: 'mark as unread',
	release: 'keep no longer',
	resume: 'end the pause of',
	classify: 'change the class of',
	retain: 'change the period of'
};

/** What a decision is called on a button, before the messages it is about. */
export function decisionVerb(decision: Decision): string {
	return VERBS[decision] ?? decision;
}

/** A conflict as a sentence. */
export function conflictSentence(
	{ wins, loses, messages }: Conflict,
	decisions: { wins: Decision; loses: Decision }
): string {
	const why =
		decisions.wins === decisions.loses
			? 'the later decision stands'
			: `to ${decisionVerb(decisions.wins)} keeps more than to ${decisionVerb(decisions.loses)}`;
	return `${showMessages(messages)} ${messages === 1 ? 'is' : 'are'} claimed by lines ${Math.min(wins, loses)} and ${Math.max(wins, loses)}: line ${wins} decides, as ${why}.`;
}

const listed = (words: readonly string[]) =>
	words.length < 2 ? words.join('') : `${words.slice(0, -1).join(', ')} and ${words.at(-1)}`;
const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** What a scheduled run leaves, as a sentence: the same rules that its dockets go by (invariant 16). */
export function runLeavesSentence(): string {
	const left = (decision: Decision) => [...(isBarredByHold(decision) ? ['held'] : []), ...protectionsFrom(decision)];
	const notArchived = left('archive');
	const onlyArchived = left('dispose').filter((name) => !notArchived.includes(name));
	return [
		...(notArchived.length > 0 ? [`${capital(listed(notArchived))} mail stays.`] : []),
		...(onlyArchived.length > 0 ? [`${capital(listed(onlyArchived))} mail is archived, but not destroyed.`] : []),
		'Mail whose date is in doubt stays, and mail restored within the last 30 days is not archived again.'
	].join(' ');
}

/** What a list is sent, in words: "Mail to leave@x.example, subject “leave”." */
export function askSentence({ list, way, to, subject, text }: ListAsk): string {
	if (way === 'one-click') return `${list}: one-click request to ${hostOf(to)}.`;
	const said = [subject && `subject “${subject}”`, text && text !== subject ? `text “${text}”` : ''].filter(Boolean);
	return `${list}: mail to ${to}${said.length > 0 ? `, ${said.join(', ')}` : ''}.`;
}

/* core/ has no URL: the name between the slashes is what people know an address by. */
const hostOf = (url: string) => /^https?:\/\/([^/?#]*)/i.exec(url)?.[1] ?? url;
