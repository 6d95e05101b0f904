import { Command, CommanderError } from 'commander';
import { type Left, LEFT_REASONS } from '../core/docket/left.ts';
import { showBytes, showMessages } from '../core/weigh/units.ts';
import { allows } from '../core/access/roles.ts';
import { commandRight, refusalFor } from '$lib/server/access/index.ts';
import { Refusal } from '$lib/server/refusal.ts';
import { closeParsePool, closeReadingPool } from '$lib/server/mail/index.ts';
import { databaseFile, leaveAlone } from '$lib/server/database/index.ts';
import { dataFolder, openContext, prepareDataFolder } from '$lib/server/process/index.ts';
import type { DocketOutcome } from '$lib/server/docket/index.ts';
import { type Context, rehearse } from '$lib/server/context/index.ts';
import { print, progressLine, say } from './terminal.ts';

/* What all commands share. Exit status: 0 done, 1 failed, 2 wrong arguments. */

export const DONE = 0;
export const COULD_NOT = 1;
export const WRONG_WORDS = 2;

/** The answer of a command: its result, the same as text for a person, and whether all is well. */
export interface Outcome {
	result: unknown;
	lines: string[];
	ok?: boolean;
}

export const program = new Command('kovrel')
	.description(
		'Weighs mailboxes, clears them out in bulk, finds and restores archived mail.\nKOVREL_DATA names the data folder, KOVREL_PERSON who acts.'
	)
	.exitOverride()
	.configureOutput({ writeErr: (text) => process.stderr.write(text) })
	.showHelpAfterError('(kovrel --help shows what can be said)');

/* Opens everything a command needs before it and closes it after; Control-C stops between two steps. */
async function within(
	words: string,
	work: (context: Context) => Promise<Outcome>,
	{ json: asJson = false, new: isFirst = false }: { json?: boolean; new?: boolean }
): Promise<void> {
	const folder = dataFolder();
	const { isNew, canWrite } = await prepareDataFolder(folder, { isFirst });
	if (isNew) say(`A new archive was begun in ${folder}.`);
	if (!canWrite) say(`Nothing can be written to ${folder}: its disk is read-only or full. Reading goes on.`);
	const line = progressLine();
	const stop = new AbortController();
	const onSignal = () => {
		say('Stopping after this step; what is done is kept.');
		stop.abort();
	};
	process.once('SIGINT', onSignal);
	const context: Context = {
		...(await openContext(folder, { readonly: !canWrite })),
		signal: stop.signal,
		report: line.report
	};
	try {
		const { role } = context.actor;
		if (!allows(commandRight(words), role)) throw new Refusal('forbidden', refusalFor(role));
		const { result, lines, ok = true } = await work(context);
		line.end();
		print(result, asJson, lines);
		if (!ok || stop.signal.aborted) process.exitCode = COULD_NOT;
	} finally {
		line.end();
		process.off('SIGINT', onSignal);
		await closeParsePool();
		await closeReadingPool();
		await context.db.destroy();
		if (canWrite) leaveAlone(databaseFile(folder));
	}
}

/* The full name of a command: `docket carry-out`. */
const wordsOf = (said: Command): string =>
	said.parent && said.parent !== program ? `${said.parent.name()} ${said.name()}` : said.name();

/** Adds a command with `--json` below `parent`. */
export function command<O>(
	words: string,
	description: string,
	options: (command: Command) => Command,
	work: (context: Context, options: O, ...args: string[]) => Promise<Outcome>,
	parent: Command = program
): void {
	const added = options(parent.command(words).description(description)).option('--json', 'write one JSON document');
	added.exitOverride().action(async () => {
		const selected = added.opts<O & { json?: boolean; new?: boolean }>();
		await within(wordsOf(added), (context) => work(context, selected, ...added.args), selected);
	});
}

/** Adds a command that changes something: also with `--dry-run`, which shows what it would do. See {@link command}. */
export function changing<O>(
	words: string,
	description: string,
	options: (command: Command) => Command,
	work: (context: Context, options: O, ...args: string[]) => Promise<Outcome>,
	parent: Command = program
): void {
	command<O & { dryRun?: boolean }>(
		words,
		description,
		(c) => options(c).option('--dry-run', 'only show what it would do'),
		async (context, selected, ...args) => {
			const run = (within: Context) => work(within, selected, ...args);
			if (!selected.dryRun) return run(context);
			const { result, lines, ...rest } = await rehearse(context, run);
			return {
				...rest,
				result: { ...(result as object), dryRun: true },
				lines: [...lines, 'That is what it would do. Nothing was done.']
			};
		},
		parent
	);
}

/** A command that only groups others. */
export function group(name: string, description: string): Command {
	return program.command(name).description(description).exitOverride();
}

/** The arguments cannot be understood. */
export const wrongWords = (message: string) => new CommanderError(WRONG_WORDS, 'kovrel.words', `error: ${message}`);

/** What was left out, one line for each reason. */
export function leftLines(left: readonly Left[]): string[] {
	return left.map(({ reason, messages }) => `  ${showMessages(messages)} left: ${LEFT_REASONS[reason]}`);
}

/** What carrying out a docket did. */
export function outcomeLines(did: string, outcome: DocketOutcome): string[] {
	const unfinished = outcome.finished
		? []
		: [`Stopped on the way. "kovrel docket carry-out ${outcome.docket}" goes on.`];
	return [
		`${did} ${showMessages(outcome.messages)} (${showBytes(outcome.bytes)}), docket ${outcome.docket}.`,
		...leftLines(outcome.left),
		...unfinished
	];
}

/** The word, if it is one of the allowed ones. */
export function oneOf<T extends string>(option: string, words: readonly T[], word: string): T {
	const found = words.find((known) => known === word);
	if (!found) throw wrongWords(`${option} takes ${words.join(', ')}, not "${word}"`);
	return found;
}

/** Numbers of messages. */
export function readIds(words: readonly string[]): number[] {
	return words.map((word) => {
		if (!/^\d{1,15}$/.test(word)) throw wrongWords(`"${word}" is no number of a message; search shows them`);
		return Number(word);
	});
}

/** A whole number from 0 to `most`. */
export function readNumber(option: string, text: string, most: number): number {
	const number = Number(text);
	if (!/^\d{1,15}$/.test(text) || number > most)
		throw wrongWords(`${option} takes a number up to ${most}, not "${text}"`);
	return number;
}
