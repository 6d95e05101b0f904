import { parse } from 'csv-parse/sync';
import type { DecisionOptions } from '../../../core/docket/decision.ts';
import type { Decision } from '../../../core/docket/decisions.ts';
import { showCount, showMessages } from '../../../core/weigh/units.ts';
import { inTransaction } from '../database/index.ts';
import { Refusal } from '../refusal.ts';
import { type KeepLine, listKeepLines, putKeepLines, removeKeepLine } from './keep-lines-store.ts';
import { appendLedger } from '../ledger/index.ts';
import { checkedQuery, listMailboxes, type Mailbox, requireMailboxId } from '../mail/index.ts';
import { COUNTED_AT_MOST, findItems, foundIdsBehind, weighFound } from '../find/index.ts';
import { type Context, decisionOptions, defineUseCase, id, text } from '../context/index.ts';
import { carryOut, decide, type DocketView, prepareDocket } from '../docket/index.ts';
import Joi from 'joi';

/* The limit for a pasted list; each line is a search of its own. */
const MOST_LINES = 2_000;
const EXAMPLES = 3;

/**
 * The lines of a pasted list: one a line, or the first column of a CSV (RFC 4180). Repeated lines count once.
 *
 * @throws Refusal
 */
export function readKeepList(text: string): string[] {
	let records: string[][];
	try {
		records = parse(text, {
			relax_column_count: true,
			skip_empty_lines: true,
			trim: true,
			bom: true,
			delimiter: [';', '\t', ',']
		}) as string[][];
	} catch {
		// not a CSV: a quotation mark in the middle of a line
		records = text.split(/\r?\n/).map((line) => [line.trim()]);
	}
	const lines = [...new Set(records.map(([first = '']) => first.replace(/["\s]+/g, ' ').trim()).filter(Boolean))];
	if (lines.length > MOST_LINES)
		throw new Refusal(
			'bad-input',
			`A keep-list has at most ${showCount(MOST_LINES)} lines; this one has ${showCount(lines.length)}. Nothing was searched.`
		);
	return lines;
}

/* Each line is searched as it stands, its words in a row, in subject, text, names, and names of files. */
const queryOf = (line: string) => `"${line}"`;
const queryOfAll = (lines: readonly string[]) => lines.map(queryOf).join(' or ');

/** The hits of a line of a keep-list. */
export interface KeepHits {
	line: string;
	/** The search that finds them. */
	query: string;
	messages: number;
	messagesIsMore: boolean;
	/** How many more lie in the bin, where they can be restored; at most {@link COUNTED_AT_MOST}. */
	binned: number;
	/** Subjects of some of them. */
	examples: string[];
}

const STATES = ['live', 'archived'] as const;

/** Searches every line of a list at once. @throws Refusal */
export async function searchKeepList(
	context: Context,
	input: { mailboxId?: number | undefined; text: string }
): Promise<KeepHits[]> {
	const hits: KeepHits[] = [];
	for (const line of readKeepList(input.text)) {
		const search = { query: checkedQuery(queryOf(line)), mailboxId: input.mailboxId, states: STATES };
		const { messages: counted } = await weighFound(context.db, search);
		const binned = await weighFound(context.db, { ...search, states: ['binned'] });
		const examples = counted > 0 ? await findItems(context.db, search, 'newest', EXAMPLES, 0) : [];
		hits.push({
			line,
			query: queryOf(line),
			messages: Math.min(counted, COUNTED_AT_MOST),
			messagesIsMore: counted > COUNTED_AT_MOST,
			binned: Math.min(binned.messages, COUNTED_AT_MOST),
			examples: examples.map(({ subject }) => subject || '(no subject)')
		});
	}
	return hits;
}

/** A decision on the hits of a list. */
export interface KeepListDecision {
	/** Undefined: in all mailboxes. */
	mailboxId?: number | undefined;
	text: string;
	decision: Extract<Decision, 'keep' | 'tag' | 'move'>;
	options: DecisionOptions;
	/** Also on future mail. */
	standing: boolean;
}

/** Puts the hits of a list on the docket of each mailbox, and stores the list for future mail. @throws Refusal */
export async function decideKeepList(context: Context, input: KeepListDecision): Promise<DocketView[]> {
	const lines = readKeepList(input.text);
	if (lines.length === 0) throw new Refusal('bad-input', 'The list is empty. Nothing was done.');
	const query = queryOfAll(lines);
	checkedQuery(query);
	const mailboxes =
		input.mailboxId === undefined
			? await listMailboxes(context.db)
			: [await requireMailboxId(context, input.mailboxId)];
	const { decision, options } = input;
	const dockets: DocketView[] = [];
	for (const mailbox of mailboxes) {
		const label = `found by ${lines.length === 1 ? 'a line' : `${showCount(lines.length)} lines`} of the keep-list`;
		dockets.push(
			await decide(context, {
				mailboxId: mailbox.id,
				line: { decision, options, scope: { kind: 'query', query, label } }
			})
		);
		if (input.standing) await note(context, mailbox, lines, input);
	}
	return dockets;
}

async function note(
	context: Context,
	mailbox: Mailbox,
	lines: readonly string[],
	{ decision, options }: KeepListDecision
): Promise<void> {
	await inTransaction(context.db, async (db) => {
		await putKeepLines(db, mailbox.id, {
			lines,
			decision,
			options,
			who: context.actor.name,
			at: context.now().toISOString()
		});
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'keep-list-set',
			details: { mailbox: mailbox.name, lines: lines.length, decision, ...options }
		});
	});
}

/** The lines that apply to future mail. */
export async function standingKeepLines({ db }: Context, input: { mailboxId: number }): Promise<KeepLine[]> {
	return listKeepLines(db, input.mailboxId);
}

/** Stops searching future mail for a line. @throws Refusal */
export async function discardKeepLine(context: Context, input: { mailboxId: number; lineId: number }): Promise<void> {
	const mailbox = await requireMailboxId(context, input.mailboxId);
	await inTransaction(context.db, async (db) => {
		if (!(await removeKeepLine(db, mailbox.id, input.lineId)))
			throw new Refusal('not-found', 'There is no such line any more. Nothing was changed.');
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'keep-list-set',
			details: { mailbox: mailbox.name, dropped: 1 }
		});
	});
}

/** Applies the keep-list to new mail: a docket for each decision, which can be taken back like any other. */
export async function applyKeepList(
	context: Context,
	{ mailboxId, sinceItem }: { mailboxId: number; sinceItem: number }
): Promise<void> {
	const groups = new Map<string, KeepLine[]>();
	for (const line of await listKeepLines(context.db, mailboxId)) {
		const key = JSON.stringify([line.decision, line.options]);
		groups.set(key, [...(groups.get(key) ?? []), line]);
	}
	for (const lines of groups.values()) {
		const [{ decision, options }] = lines as [KeepLine];
		const search = { query: checkedQuery(queryOfAll(lines.map(({ text }) => text))), mailboxId, states: ['live'] };
		const ids: number[] = [];
		for (let after = sinceItem - 1; ;) {
			const found = await foundIdsBehind(context.db, search, after, 1_000);
			if (found.length === 0) break;
			ids.push(...found);
			after = found.at(-1) as number;
		}
		if (ids.length === 0) continue;
		const docket = await prepareDocket(context, {
			mailboxId,
			name: 'Keep-list, new mail',
			lines: [{ decision, options, scope: { kind: 'items', ids, label: 'found by the keep-list in new mail' } }]
		});
		await carryOut(context, { id: docket.id });
		context.report({ done: ids.length, total: ids.length, note: `${showMessages(ids.length)} found by the keep-list` });
	}
}

/** The use cases of this file. */
export const keepListUseCases = [
	defineUseCase({
		name: 'standingKeepLines',
		input: () => Joi.object({ mailboxId: id.required() }).required(),
		thread: 'reader',
		right: 'administrator',
		run: standingKeepLines
	}),
	defineUseCase({
		name: 'searchKeepList',
		input: () => Joi.object({ mailboxId: id, text: text.required() }).required(),
		thread: 'heavy',
		right: 'administrator',
		run: searchKeepList
	}),
	defineUseCase({
		name: 'decideKeepList',
		input: () =>
			Joi.object({
				mailboxId: id,
				text: text.required(),
				decision: Joi.valid('tag', 'move', 'keep').required(),
				options: decisionOptions.required(),
				standing: Joi.boolean().required()
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: decideKeepList
	}),
	defineUseCase({
		name: 'discardKeepLine',
		input: () => Joi.object({ mailboxId: id.required(), lineId: id.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: discardKeepLine
	})
] as const;
