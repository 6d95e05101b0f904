import { readPeriod } from '../../../core/retention/periods.ts';
import { DUE_ACTIONS, termsText } from '../../../core/retention/terms.ts';
import type { Command } from 'commander';
import { type DecisionOptions, type Protection, PROTECTIONS } from '../../../core/docket/decision.ts';
import { type Decision, DECISIONS, ruleOf } from '../../../core/docket/decisions.ts';
import { leftSentence } from '../../../core/docket/left.ts';
import { PROPOSAL_KINDS, proposalLabel } from '../../../core/likeness/proposals.ts';
import { type Grouping, GROUPINGS, type Lot } from '../../../core/lots/lots.ts';
import { readBytes, showBytes, showMessages } from '../../../core/weigh/units.ts';
import {
	approveDocket,
	carryOut,
	type Decided,
	decideOn,
	type DocketView,
	discardDocket,
	listedDockets,
	prepareDocket,
	requireDocket,
	type Scope,
	showDocket,
	takeBack,
	tryDecisions
} from '$lib/server/docket/index.ts';
import { type Context, today } from '$lib/server/context/index.ts';
import { listLots, lotsLines, type Sheet } from '$lib/server/lots/index.ts';
import { requireMailbox, requireMailboxId } from '$lib/server/mail/index.ts';
import {
	changing,
	command,
	group,
	leftLines,
	oneOf,
	outcomeLines,
	readIds,
	readNumber,
	wrongWords
} from '../../command.ts';

/* `docket`: drafted decisions, carried out or discarded. */
const docket = group('docket', 'prepare decisions, look at them, carry them out, take them back');

/* Decisions on lists and on the layout of the archive have commands of their own. */
const OFFERED = DECISIONS.filter((decision) =>
	ruleOf(decision).screens.some((screen) => screen !== 'archive' && screen !== 'lists')
);

const idOf = (word: string) => readIds([word])[0] as number;

function shown(view: DocketView) {
	const { id, name, state, mailbox, messages, bytes, lines, freedAtOnce, freedLater } = view;
	return {
		id,
		name,
		state,
		mailbox,
		lines: lines.map((line) => ({
			id: line.id,
			decision: line.decision,
			sentence: line.sentence,
			messages: line.messages,
			bytes: line.bytes,
			doneMessages: line.doneMessages,
			doneBytes: line.doneBytes,
			left: line.left
		})),
		messages,
		bytes,
		freedAtOnce,
		freedLater,
		left: lines.flatMap(({ left }) => left),
		conflicts: lines.flatMap(({ conflicts, position }) => conflicts.filter(({ loses }) => loses === position))
	};
}

function shownLines(view: DocketView): string[] {
	return [
		`Docket ${view.id}${view.name ? ` “${view.name}”` : ''} for ${view.mailbox}, ${view.state.replace('-', ' ')}: ${showMessages(view.messages)} (${showBytes(view.bytes)}).`,
		...view.lines.flatMap((line) => [
			`  ${line.position}. ${line.sentence}`,
			...(line.consequence ? [`     ${line.consequence}`] : []),
			...line.conflictSentences.map((sentence) => `     ${sentence}`),
			...line.left.map((left) => `     ${leftSentence(left)}`)
		])
	];
}

interface DecisionWords {
	by?: string;
	key?: string[];
	where?: string;
	folder?: string;
	items?: string[];
	proposal?: string;
	to?: string;
	tag?: string;
	until?: string;
	because?: string;
	keepNewest?: string;
	only?: string;
	leaveFlagged?: boolean;
	olderThan?: string;
	largerThan?: string;
	class?: string;
	series?: string;
	keepFor?: string;
	due?: string;
	dryRun?: boolean;
}

/* A message's own period: destroyed at its end, or kept for good. */
function keptFor(text: string): string {
	const period = text === 'permanent' ? undefined : readPeriod(text);
	if (text !== 'permanent' && !period)
		throw wrongWords(`--keep-for takes a duration such as P7Y, or permanent, not "${text}"`);
	return termsText({ trigger: 'received', disposition: period ? 'destroy' : 'keep', period });
}

function readOptions(words: DecisionWords): DecisionOptions {
	const only: Protection | undefined = words.only === undefined ? undefined : oneOf('--only', PROTECTIONS, words.only);
	return {
		...(words.to === undefined ? {} : { folder: words.to }),
		...(words.tag === undefined ? {} : { tag: words.tag }),
		...(words.until === undefined ? {} : { until: words.until }),
		...(words.because === undefined ? {} : { because: words.because }),
		...(words.keepNewest === undefined ? {} : { keepNewest: readNumber('--keep-newest', words.keepNewest, 1_000_000) }),
		...(only === undefined ? {} : { only }),
		...(words.leaveFlagged ? { leavesFlagged: true } : {}),
		...(words.class === undefined ? {} : { class: words.class === 'as-folder' ? null : words.class }),
		...(words.series === undefined ? {} : { series: words.series }),
		...(words.keepFor === undefined ? {} : { terms: keptFor(words.keepFor) })
	};
}

/* Sets of messages that are no lots: a proposal, the bin, the archive. */
function readScope(decision: Decision, words: DecisionWords, today: string): Scope | undefined {
	const { from, needsEndedPeriod } = ruleOf(decision);
	if (needsEndedPeriod || words.due !== undefined)
		return {
			kind: 'due',
			action: oneOf('--due', DUE_ACTIONS, words.due ?? 'destroy'),
			by: today,
			label: 'that are due',
			...(words.items ? { ids: readIds(words.items) } : {})
		};
	if (words.proposal !== undefined) {
		const proposal = oneOf('--proposal', PROPOSAL_KINDS, words.proposal);
		return { kind: 'proposal', proposal, ids: undefined, label: proposalLabel(proposal) };
	}
	if (from.includes('live') || !from.includes('binned')) return undefined;
	if (words.items) return { kind: 'items', ids: readIds(words.items) };
	return from.includes('archived')
		? { kind: 'query', query: words.where ?? '', label: '' }
		: { kind: 'bin', binnedBy: undefined };
}

/* A decision in words, as lines for a mailbox. */
async function readDecision(
	context: Context,
	mailboxName: string,
	word: string,
	words: DecisionWords
): Promise<{ mailboxId: number; lines: Decided[] }> {
	const mailbox = await requireMailbox(context, mailboxName);
	const decision: Decision = oneOf('a decision', OFFERED, word);
	const options = readOptions(words);
	const scope = readScope(decision, words, today(context));
	if (scope) return { mailboxId: mailbox.id, lines: [{ decision, options, scope }] };
	if (words.largerThan !== undefined && readBytes(words.largerThan) === undefined)
		throw wrongWords(`--larger-than takes a size, not "${words.largerThan}"`);
	const query = [
		words.where && (words.olderThan || words.largerThan) ? `(${words.where})` : (words.where ?? ''),
		words.olderThan ? `before:${words.olderThan}` : '',
		words.largerThan ? `larger:${words.largerThan.replaceAll(' ', '')}` : ''
	]
		.filter(Boolean)
		.join(' ');
	const sheet: Sheet = {
		mailboxId: mailbox.id,
		by: oneOf('--by', Object.keys(GROUPINGS) as Grouping[], words.by ?? 'organisation'),
		query,
		folder: words.folder
	};
	const lots = words.key && (await lotsNamed(context, sheet, words.key));
	const onlyItems = words.items !== undefined && words.key === undefined && query === '' && words.folder === undefined;
	const lines = await lotsLines(context, mailbox, {
		...sheet,
		decision,
		options,
		keys: onlyItems ? [] : lots?.map(({ key }) => key),
		labels: lots?.map(({ label }) => label) ?? [],
		items: words.items ? readIds(words.items) : []
	});
	return { mailboxId: mailbox.id, lines };
}

/* Lots by their key or their name. */
async function lotsNamed(context: Context, sheet: Sheet, names: readonly string[]): Promise<Lot[]> {
	const { lots } = await listLots(context, { ...sheet, limit: 10_000_000 });
	return names.map((name) => {
		const found = lots.find(({ key, label }) => key === name || label.toLowerCase() === name.toLowerCase());
		if (!found) throw wrongWords(`there is no lot "${name}"; "kovrel lots --by ${sheet.by}" shows them`);
		return found;
	});
}

const withDecision = (c: Command) =>
	c
		.option('--by <what>', `what lots share: ${Object.keys(GROUPINGS).join(', ')}`)
		.option('--key <lot...>', 'the lots meant, by key or name (without: all that match)')
		.option('--where <query>', 'only what this search finds')
		.option('--folder <path>', 'only this folder and its subfolders')
		.option('--items <id...>', 'single messages')
		.option('--proposal <kind>', 'what "kovrel propose" has found of this kind')
		.option('--older-than <date>', 'only mail received before a date')
		.option('--larger-than <size>', 'only what is larger')
		.option('--keep-newest <n>', 'of each lot, so many of the newest stay')
		.option('--to <folder>', 'for move: the folder')
		.option('--tag <name>', 'for tag and untag')
		.option('--until <date>', 'for pause: the day it ends')
		.option('--because <reason>', 'for pause and classify: why')
		.option('--class <class>', 'for classify: the word of a class (kovrel class list), or as-folder')
		.option('--series <code>', 'for retain: the series')
		.option('--keep-for <duration>', 'for retain: a period of its own, such as P10Y, or permanent')
		.option('--due <action>', 'mail due for this disposition: archive, destroy (the usual, for dispose), review')
		.option('--only <protection>', `a decision of its own on what is ${PROTECTIONS.join(', ')}`)
		.option('--leave-flagged', 'flagged mail stays')
		.option('--dry-run', 'only say what it would mean');

async function tried(context: Context, mailboxName: string, decision: string, words: DecisionWords) {
	const mailbox = await requireMailbox(context, mailboxName);
	const { lines } = await readDecision(context, mailboxName, decision, words);
	const counted = await tryDecisions(context, mailbox, lines);
	const messages = counted.reduce((sum, line) => sum + line.messages, 0);
	const bytes = counted.reduce((sum, line) => sum + line.bytes, 0);
	const left = counted.flatMap((line) => line.left);
	return {
		result: { id: null, state: 'not drafted', lines: counted, messages, bytes, left, conflicts: [] },
		lines: [
			`Would ${decision} ${showMessages(messages)} (${showBytes(bytes)}). Nothing was drafted.`,
			...leftLines(left)
		]
	};
}

command<DecisionWords & { mailbox: string; name?: string }>(
	'new <decision>',
	`draft a docket with a decision: ${OFFERED.join(', ')}`,
	(c) =>
		withDecision(c.requiredOption('--mailbox <name>', 'mailbox').option('--name <text>', 'what the docket is called')),
	async (context, { mailbox, name, dryRun, ...words }, decision = '') => {
		if (dryRun) return tried(context, mailbox, decision, words);
		const read = await readDecision(context, mailbox, decision, words);
		const view = await prepareDocket(context, {
			mailboxId: read.mailboxId,
			lines: read.lines,
			...(name === undefined ? {} : { name })
		});
		return { result: shown(view), lines: [...shownLines(view), 'Nothing was done yet.'] };
	},
	docket
);

command<DecisionWords>(
	'add <number> <decision>',
	'put another decision on a draft',
	withDecision,
	async (context, { dryRun, ...words }, number = '', decision = '') => {
		const { mailboxId } = await requireDocket(context, idOf(number));
		const { name } = await requireMailboxId(context, mailboxId);
		if (dryRun) return tried(context, name, decision, words);
		const { lines } = await readDecision(context, name, decision, words);
		let view: DocketView | undefined;
		for (const line of lines) view = await decideOn(context, { id: idOf(number), lines: [line] });
		return {
			result: shown(view as DocketView),
			lines: [...shownLines(view as DocketView), 'Nothing was done yet.']
		};
	},
	docket
);

command<object>(
	'show <number>',
	'show a docket: its lines and sums, the messages that stay and why, and those that two lines claim',
	(c) => c,
	async (context, _options, number = '') => {
		const view = await showDocket(context, { id: idOf(number) });
		return { result: { ...shown(view), folders: view.folders }, lines: shownLines(view) };
	},
	docket
);

command<{ mailbox?: string; limit: string }>(
	'list',
	'list dockets, the newest first',
	(c) => c.option('--mailbox <name>', 'of one mailbox').option('--limit <n>', 'so many', '20'),
	async (context, { mailbox, limit }) => {
		const views = await listedDockets(context, {
			mailboxId: mailbox === undefined ? undefined : (await requireMailbox(context, mailbox)).id,
			limit: readNumber('--limit', limit, 10_000),
			drafts: true
		});
		return { result: { dockets: views.map(shown) }, lines: views.flatMap(shownLines) };
	},
	docket
);

command<{ confirm?: string; dryRun?: boolean }>(
	'carry-out <number>',
	'carry out a docket, or go on with one that was stopped',
	(c) =>
		c
			.option(
				'--confirm <words>',
				'where it destroys: the word "destroy", above the set number the name of the mailbox'
			)
			.option('--dry-run', 'only show what it would do'),
	async (context, { confirm, dryRun }, number = '') => {
		const id = idOf(number);
		if (dryRun) {
			const view = await showDocket(context, { id });
			return { result: shown(view), lines: [...shownLines(view), 'Nothing was done.'] };
		}
		const outcome = await carryOut(context, { id, confirm });
		return { result: outcome, lines: outcomeLines('Carried out:', outcome), ok: outcome.finished };
	},
	docket
);

command<{ dryRun?: boolean }>(
	'take-back <number>',
	'take a docket back: restore every message that nothing has changed since',
	(c) => c.option('--dry-run', 'only show the docket'),
	async (context, { dryRun }, number = '') => {
		const id = idOf(number);
		if (dryRun) {
			const view = await showDocket(context, { id });
			return { result: shown(view), lines: [...shownLines(view), 'Nothing was taken back.'] };
		}
		const outcome = await takeBack(context, { id });
		return { result: outcome, lines: outcomeLines('Took back', outcome), ok: outcome.finished };
	},
	docket
);

changing<object>(
	'discard <number>',
	'discard a draft',
	// the former word for it
	(c) => c.alias('drop'),
	async (context, _options, number = '') => {
		await discardDocket(context, { id: idOf(number) });
		return { result: { id: idOf(number), state: 'dropped' }, lines: [`Docket ${number} was discarded.`] };
	},
	docket
);

command<object>(
	'approve <number>',
	'approve the destruction in a draft that somebody else prepared (KOVREL_PERSON says who you are)',
	(c) => c,
	async (context, _options, number = '') => {
		const { messages, bytes } = await showDocket(context, { id: idOf(number) });
		await approveDocket(context, { id: idOf(number), expected: { messages, bytes } });
		return {
			result: { id: idOf(number), approvedBy: context.actor.name, messages, bytes },
			lines: [`Docket ${number} is approved: it destroys ${showMessages(messages)}.`]
		};
	},
	docket
);
