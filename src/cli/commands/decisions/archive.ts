import type { Command } from 'commander';
import { type Layout, LAYOUT_DIVISIONS, LAYOUT_PATHS, layoutWords } from '../../../core/archive/layout.ts';
import { showBytes, showMessages } from '../../../core/weigh/units.ts';
import { recalculateDue } from '$lib/server/standing/index.ts';
import {
	prepareArchiving,
	prepareArranging,
	setArchiving,
	setFinancialYear,
	tryArchiving
} from '$lib/server/archive/index.ts';
import { carryOut } from '$lib/server/docket/index.ts';
import { requireMailbox } from '$lib/server/mail/index.ts';
import { changing, command, leftLines, oneOf, outcomeLines, wrongWords } from '../../command.ts';

interface LayoutOptions {
	paths?: string;
	divide?: string;
}

const withLayout = (c: Command) =>
	c
		.option('--paths <paths>', 'in the archive: keep the folder paths, or flat')
		.option('--divide <by>', 'divide the archive by none, year, month or financial-year');

/* The layout in the options, applied on top of another; undefined without such options. */
function readLayout({ paths, divide }: LayoutOptions, base: Layout): Layout | undefined {
	if (paths === undefined && divide === undefined) return undefined;
	return {
		paths: oneOf('--paths', LAYOUT_PATHS, paths ?? base.paths),
		divide: oneOf('--divide', LAYOUT_DIVISIONS, divide ?? base.divide)
	};
}

interface ArchiveOptions extends LayoutOptions {
	mailbox: string;
	before?: string;
	folder?: string;
	query?: string;
	without?: string[];
	leaveFlagged?: boolean;
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
				.option('--without <path...>', 'folders to be left out, with their subfolders')
				.option('--leave-flagged', 'flagged mail stays')
				.option('--query <query>', 'instead: what this search finds')
				.option('--dry-run', 'only say what would be done')
		),
	async (context, { dryRun, paths, divide, leaveFlagged, ...asked }) => {
		if ((asked.before === undefined) === (asked.query === undefined))
			throw wrongWords('name a cutoff date (--before) or a search (--query)');
		const { layout } = await requireMailbox(context, asked.mailbox);
		const input = { ...asked, leavesFlagged: leaveFlagged, layout: readLayout({ paths, divide }, layout) };
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

changing<ArchivingOptions>(
	'archiving',
	'set how a mailbox is archived from now on',
	(c) =>
		withLayout(c.requiredOption('--mailbox <name>', 'mailbox'))
			.option('--nothing', 'archive nothing of this mailbox')
			.option('--something', 'its mail may be archived again')
			.option('--anew', 'arrange what is in the archive so as well')
			.option('--financial-year <month>', "first month of the office's financial year, 1 to 12"),
	async (context, { mailbox, nothing, something, anew, financialYear, ...words }) => {
		if (financialYear !== undefined) {
			await setFinancialYear(context, { month: Number(financialYear) });
			await recalculateDue(context);
		}
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
