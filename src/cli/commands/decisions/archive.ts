import type { Command } from 'commander';
import {
	isLevel,
	type Layout,
	LAYOUT_PARTS,
	layoutBy,
	layoutWords,
	MOST_LEVELS,
	ownWords
} from '../../../core/archive/layout.ts';
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
	levels?: string[];
	paths?: string;
	divide?: string;
}

const PATHS = ['keep', 'flat'] as const;
const DIVISIONS = ['none', 'year', 'month', 'financial-year'] as const;

const withLayout = (c: Command) =>
	c
		.option(
			'--levels <level...>',
			`the levels of the archive's tree from the top: ${LAYOUT_PARTS.join(', ')}, or =WORDS for own words`
		)
		.option('--paths <paths>', 'shorter: keep the folder paths, or flat')
		.option('--divide <by>', 'shorter: divide the archive by none, year, month or financial-year');

/* The layout in the options, applied on top of another; undefined without such options. */
function readLayout({ levels, paths, divide }: LayoutOptions, base: Layout): Layout | undefined {
	if (levels) {
		if (levels.length > MOST_LEVELS) throw wrongWords(`--levels takes at most ${MOST_LEVELS}`);
		return levels.map((said) => {
			const level = said.startsWith('=') ? ownWords(said.slice(1)) : said;
			if (!isLevel(level)) throw wrongWords(`--levels takes ${LAYOUT_PARTS.join(', ')} or =WORDS, not "${said}"`);
			return level;
		});
	}
	if (paths === undefined && divide === undefined) return undefined;
	return layoutBy(
		oneOf('--paths', PATHS, paths ?? pathsOf(base)),
		oneOf('--divide', DIVISIONS, divide ?? divisionOf(base))
	);
}

/* A layout by the two settings that scripts know; the last of several divisions. */
const pathsOf = (layout: Layout) => (layout.includes('folder') ? 'keep' : 'flat');
const divisionOf = (layout: Layout) => DIVISIONS.findLast((by) => (layout as readonly string[]).includes(by)) ?? 'none';

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
	async (context, { dryRun, levels, paths, divide, leaveFlagged, ...asked }) => {
		if ((asked.before === undefined) === (asked.query === undefined))
			throw wrongWords('name a cutoff date (--before) or a search (--query)');
		const { layout } = await requireMailbox(context, asked.mailbox);
		const input = { ...asked, leavesFlagged: leaveFlagged, layout: readLayout({ levels, paths, divide }, layout) };
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
		const { layout: made } = set;
		const result = {
			mailbox: set.name,
			levels: made,
			paths: pathsOf(made),
			divide: divisionOf(made),
			archives: set.archives
		};
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
