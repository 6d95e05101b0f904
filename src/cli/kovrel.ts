import path from 'node:path';
import { Command, CommanderError } from 'commander';
import { type Layout, LAYOUT_DIVISIONS, LAYOUT_PATHS, layoutWords } from '../core/archive/layout.ts';
import { LEFT_REASONS, type Left } from '../core/docket/effects.ts';
import { readBytes, showBytes, showCount, showMessages } from '../core/weigh/units.ts';
import { closeParsePool } from '$lib/server/jobs/parse-pool.ts';
import { dataFolder } from '$lib/server/office.ts';
import { setArchiving, setFinancialYear } from '$lib/server/work/archiving.ts';
import { carryOut, type DocketOutcome, takeBack } from '$lib/server/work/carry-out.ts';
import type { Context } from '$lib/server/work/context.ts';
import { Refusal } from '$lib/server/refusal.ts';
import { EXPORT_FORMATS, exportMail } from '$lib/server/work/export-mail.ts';
import { find } from '$lib/server/work/find.ts';
import { importMailbox } from '$lib/server/work/import-mailbox.ts';
import { requireMailbox, setQuota } from '$lib/server/work/mailboxes.ts';
import { openContext, prepareDataFolder } from '$lib/server/work/open-context.ts';
import { prepareArchiving, prepareArranging, tryArchiving } from '$lib/server/work/prepare-docket.ts';
import { restore } from '$lib/server/work/restore.ts';
import { verifyArchive } from '$lib/server/work/verify-archive.ts';
import { listWeights, weighMailbox, type Weighing } from '$lib/server/work/weigh.ts';
import { print, progressLine, say, table } from './terminal.ts';

/* The terminal door to the use cases. Exit status: 0 done, 1 could not, 2 wrong words. */

const DONE = 0;
const COULD_NOT = 1;
const WRONG_WORDS = 2;

/** What a command answers: the result, the same for a person, and whether it is as it should be. */
interface Outcome {
	result: unknown;
	lines: string[];
	ok?: boolean;
}

const program = new Command('kovrel')
	.description(
		'Weighs mailboxes, archives what is old, finds and restores what was archived.\nKOVREL_DATA names the data folder, KOVREL_PERSON who acts.'
	)
	.exitOverride()
	.configureOutput({ writeErr: (text) => process.stderr.write(text) })
	.showHelpAfterError('(kovrel --help shows what can be said)');

/* Everything a command needs is opened around it and closed behind it; Control-C stops between two steps. */
async function within(work: (context: Context) => Promise<Outcome>, asJson: boolean): Promise<void> {
	const folder = dataFolder();
	await prepareDataFolder(folder);
	const line = progressLine();
	const stop = new AbortController();
	const onSignal = () => {
		say('Stopping after this step; what is done is kept.');
		stop.abort();
	};
	process.once('SIGINT', onSignal);
	const context: Context = { ...(await openContext(folder)), signal: stop.signal, report: line.report };
	try {
		const { result, lines, ok = true } = await work(context);
		line.end();
		print(result, asJson, lines);
		if (!ok || stop.signal.aborted) process.exitCode = COULD_NOT;
	} finally {
		line.end();
		process.off('SIGINT', onSignal);
		await closeParsePool();
		await context.db.destroy();
	}
}

/** Adds a command with `--json`. */
function command<O>(
	words: string,
	description: string,
	options: (command: Command) => Command,
	work: (context: Context, options: O, ...args: string[]) => Promise<Outcome>
): void {
	const added = options(program.command(words).description(description)).option('--json', 'write one JSON document');
	added.exitOverride().action(async () => {
		const chosen = added.opts<O & { json?: boolean }>();
		await within((context) => work(context, chosen, ...added.args), chosen.json ?? false);
	});
}

function leftLines(left: readonly Left[]): string[] {
	return left.map(({ reason, messages }) => `  ${showMessages(messages)} left: ${LEFT_REASONS[reason]}`);
}

function outcomeLines(did: string, outcome: DocketOutcome): string[] {
	const unfinished = outcome.finished
		? []
		: [`Stopped on the way. "kovrel docket carry-out ${outcome.docket}" goes on.`];
	return [
		`${did} ${showMessages(outcome.messages)} (${showBytes(outcome.bytes)}), docket ${outcome.docket}.`,
		...leftLines(outcome.left),
		...unfinished
	];
}

command<{ mailbox: string; folder?: string }>(
	'import <path>',
	'bring in an mbox file, a message (EML) or a folder of messages',
	(c) =>
		c
			.requiredOption('--mailbox <name>', 'mailbox to put it into; made where it is new')
			.option('--folder <path>', 'folder in it (without: Inbox)'),
	async (context, { mailbox, folder }, source = '') => {
		const result = await importMailbox(context, { path: path.resolve(source), mailbox, folder, source, alone: true });
		const { read, added, already, unreadable, bytes } = result;
		return {
			result,
			lines: [
				`${showMessages(read)} read (${showBytes(bytes)}) for ${result.mailbox}:`,
				...table([
					['  added', showCount(added)],
					['  there already', showCount(already)],
					['  unreadable, kept raw', showCount(unreadable)]
				])
			]
		};
	}
);

command<{ mailbox?: string }>(
	'weigh',
	'show how large mailboxes and their folders are',
	(c) => c.option('--mailbox <name>', 'one mailbox with its folders (without: all mailboxes)'),
	async (context, { mailbox: name }) => {
		const chosen = name === undefined ? await listWeights(context) : [await requireMailbox(context, name)];
		const weighed: Weighing[] = [];
		for (const { id } of chosen) weighed.push(await weighMailbox(context, { mailboxId: id }));
		const folders = weighed.flatMap(({ mailbox, folders }) =>
			folders.map((folder) => ({ mailbox: mailbox.name, ...folder }))
		);
		const sum = (key: 'messages' | 'bytes') => weighed.reduce((total, { mailbox }) => total + mailbox[key], 0);
		return {
			result: {
				messages: sum('messages'),
				bytes: sum('bytes'),
				mailboxes: weighed.map(({ mailbox: { name, messages, bytes, quotaBytes, archived } }) => ({
					name,
					messages,
					bytes,
					quotaBytes: quotaBytes ?? null,
					archived
				})),
				folders: folders.map(({ mailbox, path, messages, bytes, messagesBelow, bytesBelow }) => ({
					mailbox,
					path,
					messages,
					bytes,
					messagesBelow,
					bytesBelow
				}))
			},
			lines: weighed.flatMap(({ mailbox, folders, advice }) => [
				`${mailbox.name}: ${showMessages(mailbox.messages)}, ${showBytes(mailbox.bytes)}${mailbox.quotaBytes === undefined ? '' : ` of ${showBytes(mailbox.quotaBytes)}`}; ${showMessages(mailbox.archived.messages)} archived (${showBytes(mailbox.archived.bytes)})`,
				...table([
					['  folder', 'own', 'with subfolders', ''],
					...folders.map(({ path, messages, messagesBelow, bytesBelow }) => [
						`  ${path}`,
						showCount(messages),
						showCount(messagesBelow),
						showBytes(bytesBelow)
					])
				]),
				advice
			])
		};
	}
);

interface LayoutOptions {
	paths?: string;
	divide?: string;
}

const withLayout = (c: Command) =>
	c
		.option('--paths <paths>', 'in the archive: keep the folder paths, or flat')
		.option('--divide <by>', 'divide the archive by none, year, month or financial-year');

/* The layout that was asked for, on top of another; undefined where none was. */
function readLayout({ paths, divide }: LayoutOptions, base: Layout): Layout | undefined {
	if (paths === undefined && divide === undefined) return undefined;
	return {
		paths: oneOf('--paths', LAYOUT_PATHS, paths ?? base.paths),
		divide: oneOf('--divide', LAYOUT_DIVISIONS, divide ?? base.divide)
	};
}

/** The word if it is one of those that can be said. */
function oneOf<T extends string>(option: string, words: readonly T[], word: string): T {
	const found = words.find((known) => known === word);
	if (!found)
		throw new CommanderError(WRONG_WORDS, 'kovrel.word', `error: ${option} takes ${words.join(', ')}, not "${word}"`);
	return found;
}

interface ArchiveOptions extends LayoutOptions {
	mailbox: string;
	before?: string;
	folder?: string;
	query?: string;
	dryRun?: boolean;
}

command<ArchiveOptions>(
	'archive',
	'archive everything received before a date, or what a search finds',
	(c) =>
		withLayout(
			c
				.requiredOption('--mailbox <name>', 'mailbox')
				.option('--before <date>', 'cutoff date, such as 2024-03-01')
				.option('--folder <path>', 'only this folder and its subfolders')
				.option('--query <query>', 'instead: what this search finds')
				.option('--dry-run', 'only say what would be done')
		),
	async (context, { dryRun, paths, divide, ...asked }) => {
		if ((asked.before === undefined) === (asked.query === undefined))
			throw new CommanderError(
				WRONG_WORDS,
				'kovrel.what',
				'error: name a cutoff date (--before) or a search (--query)'
			);
		const { layout } = await requireMailbox(context, asked.mailbox);
		const input = { ...asked, layout: readLayout({ paths, divide }, layout) };
		if (dryRun) {
			const { messages, bytes, left } = await tryArchiving(context, input);
			return {
				result: { docket: null, messages, bytes, left, carriedOut: false },
				lines: [`Would archive ${showMessages(messages)} (${showBytes(bytes)}). Nothing was done.`, ...leftLines(left)]
			};
		}
		const draft = await prepareArchiving(context, input);
		const outcome = await carryOut(context, { id: draft.id, expected: draft });
		const { docket, messages, bytes, left, finished } = outcome;
		return {
			result: { docket, messages, bytes, left, carriedOut: finished },
			lines: outcomeLines('Archived', outcome),
			ok: finished
		};
	}
);

interface ArchivingOptions extends LayoutOptions {
	mailbox: string;
	nothing?: boolean;
	something?: boolean;
	anew?: boolean;
	financialYear?: string;
}

command<ArchivingOptions>(
	'archiving',
	'set how a mailbox is archived from now on',
	(c) =>
		withLayout(c.requiredOption('--mailbox <name>', 'mailbox'))
			.option('--nothing', 'archive nothing of this mailbox')
			.option('--something', 'its mail may be archived again')
			.option('--anew', 'arrange what is in the archive so as well')
			.option('--financial-year <month>', "first month of the office's financial year, 1 to 12"),
	async (context, { mailbox, nothing, something, anew, financialYear, ...words }) => {
		if (financialYear !== undefined) await setFinancialYear(context, { month: Number(financialYear) });
		const layout = readLayout(words, (await requireMailbox(context, mailbox)).layout);
		const archives = nothing ? false : something ? true : undefined;
		const set = await setArchiving(context, { mailbox, layout, archives });
		const said = `${set.name}: ${set.archives ? layoutWords(set.layout) : 'archives nothing'}.`;
		const result = { mailbox: set.name, ...set.layout, archives: set.archives };
		if (!anew) return { result: { ...result, docket: null, messages: 0 }, lines: [said] };
		const draft = await prepareArranging(context, { mailbox });
		const outcome = await carryOut(context, { id: draft.id, expected: draft });
		return {
			result: { ...result, docket: outcome.docket, messages: outcome.messages },
			lines: [said, ...outcomeLines('Arranged anew:', outcome)],
			ok: outcome.finished
		};
	}
);

command<{ mailbox?: string; limit: string }>(
	'search <query>',
	'find archived and live messages: words, "phrases", begin*, not, or, brackets, and the keys of docs/guide.md',
	(c) => c.option('--mailbox <name>', 'only in this mailbox').option('--limit <n>', 'messages to show', '20'),
	async (context, { mailbox, limit }, query = '') => {
		const shown = Number(limit);
		if (!Number.isInteger(shown) || shown < 0 || shown > 10_000)
			throw new CommanderError(
				WRONG_WORDS,
				'kovrel.limit',
				`error: --limit takes a number up to 10000, not "${limit}"`
			);
		const { total, totalIsMore, hits } = await find(context, { query, mailbox, limit: shown });
		return {
			result: {
				total,
				totalIsMore,
				hits: hits.map(
					({
						id,
						messageId,
						subject,
						fromName,
						fromAddress,
						receivedAt,
						receivedOn,
						mailbox,
						folder,
						origin,
						state,
						bytes
					}) => ({
						id,
						messageId,
						subject,
						from: fromName ? `${fromName} <${fromAddress}>` : fromAddress,
						fromAddress,
						received: receivedAt === null ? null : new Date(receivedAt * 1000).toISOString(),
						receivedOn,
						mailbox,
						folder,
						origin,
						state,
						bytes
					})
				)
			},
			lines: [
				`${totalIsMore ? 'More than ' : ''}${showMessages(total)} found.`,
				...table(
					hits.map(({ id, receivedOn, state, subject, fromAddress }) => [
						`${id}  ${receivedOn ?? 'undated   '}  ${state.padEnd(8)}  ${subject.slice(0, 70) || '(no subject)'}`,
						fromAddress
					])
				)
			]
		};
	}
);

function readIds(words: readonly string[]): number[] {
	return words.map((word) => {
		if (!/^\d{1,15}$/.test(word))
			throw new CommanderError(
				WRONG_WORDS,
				'kovrel.id',
				`error: "${word}" is no number of a message; search shows them`
			);
		return Number(word);
	});
}

command<object>(
	'restore <id...>',
	'put archived messages back into the folders they came from',
	(c) => c,
	async (context, _options, ...words) => {
		const { restored, left, dockets, unknown } = await restore(context, { ids: readIds(words) });
		return {
			result: { restored, left, dockets, unknown },
			lines: [
				`Restored ${showMessages(restored)}.`,
				...leftLines(left),
				...(unknown > 0 ? [`  ${showCount(unknown)} of the numbers ${unknown === 1 ? 'is' : 'are'} no message`] : [])
			],
			ok: unknown === 0 && (restored > 0 || left.length === 0)
		};
	}
);

command<{ mailbox: string; folder?: string; query?: string; format: string; out: string }>(
	'export',
	'write messages as files, byte for byte as they came in',
	(c) =>
		c
			.requiredOption('--mailbox <name>', 'mailbox')
			.option('--folder <path>', 'only this folder and its subfolders')
			.option('--query <query>', 'only what this finds')
			.requiredOption('--format <format>', 'eml: one file a message; mbox: one file a folder; maildir: with flags')
			.requiredOption('--out <path>', 'folder, new or empty'),
	async (context, { mailbox, folder, query, format, out }) => {
		const chosen = oneOf('--format', EXPORT_FORMATS, format);
		if (folder !== undefined && query !== undefined)
			throw new CommanderError(WRONG_WORDS, 'kovrel.what', 'error: name a folder or a search, not both');
		const result = await exportMail(context, { mailbox, folder, query, format: chosen, out: path.resolve(out) });
		const { written, bytes, damaged, finished } = result;
		return {
			result,
			ok: finished && damaged.length === 0,
			lines: [
				`Wrote ${showMessages(written)} (${showBytes(bytes)}) to ${out}.`,
				...damaged.map((place) => `  DAMAGED and not written: ${place}`)
			]
		};
	}
);

command<object>(
	'verify',
	'check every stored message, the ledger and the summaries',
	(c) => c,
	async (context) => {
		const result = await verifyArchive(context);
		const { messages, bytes, storedBytes, damaged, ledger, weightsDiffering, ok } = result;
		return {
			result,
			ok,
			lines: [
				`${showMessages(messages)} checked (${showBytes(bytes)}, stored as ${showBytes(storedBytes)}): ${damaged.length === 0 ? 'all as they came in' : `${damaged.length} DAMAGED (contents ${damaged.slice(0, 20).join(', ')})`}.`,
				`Ledger: ${showCount(ledger.lines)} lines, ${ledger.ok ? 'unbroken' : `BROKEN at line ${ledger.brokenAt}`}; last hash ${ledger.head}.`,
				`Summaries: ${weightsDiffering === 0 ? 'agree with a fresh count' : `${weightsDiffering} rows DIFFER from a fresh count`}.`
			]
		};
	}
);

command<{ mailbox: string }>(
	'quota <size>',
	'set the quota of a mailbox, such as "2 GB", or none',
	(c) => c.requiredOption('--mailbox <name>', 'mailbox; made where it is new'),
	async (context, { mailbox }, size = '') => {
		const bytes = size === 'none' ? undefined : readBytes(size);
		if (size !== 'none' && bytes === undefined)
			throw new CommanderError(WRONG_WORDS, 'kovrel.size', `error: "${size}" is no size; write 500 MB, or none`);
		const { name, quotaBytes } = await setQuota(context, { mailbox, bytes });
		return {
			result: { mailbox: name, quotaBytes: quotaBytes ?? null },
			lines: [`The quota of ${name} is ${quotaBytes === undefined ? 'none' : showBytes(quotaBytes)}.`]
		};
	}
);

const STEPS = {
	'carry-out': { run: carryOut, did: 'Carried out:' },
	'take-back': { run: takeBack, did: 'Took back' }
} as const;

command<object>(
	'docket <step> <number>',
	'go on with a docket (carry-out), or take it back (take-back)',
	(c) => c,
	async (context, _options, step = '', number = '') => {
		const chosen = Object.entries(STEPS).find(([name]) => name === step)?.[1];
		if (!chosen)
			throw new CommanderError(
				WRONG_WORDS,
				'kovrel.step',
				`error: a docket can be told carry-out or take-back, not "${step}"`
			);
		const outcome = await chosen.run(context, { id: readIds([number])[0] as number });
		return { result: outcome, lines: outcomeLines(chosen.did, outcome), ok: outcome.finished };
	}
);

try {
	await program.parseAsync();
} catch (error) {
	if (error instanceof CommanderError) {
		if (error.code.startsWith('kovrel.')) say(error.message);
		process.exitCode = error.exitCode === DONE ? DONE : WRONG_WORDS;
	} else if (error instanceof Refusal) {
		say(error.message);
		process.exitCode = error.code === 'bad-input' ? WRONG_WORDS : COULD_NOT;
	} else {
		say(error instanceof Error ? (error.stack ?? error.message) : String(error));
		process.exitCode = COULD_NOT;
	}
}
