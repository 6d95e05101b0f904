import { followedSentence } from '../../../core/search/renamed.ts';
import type { Command } from 'commander';
import { showBytes, showMessages } from '../../../core/weigh/units.ts';
import {
	endPause,
	folderPerYear,
	makeFolder,
	mergeFolder,
	pauseFolder,
	removeFolders,
	renameFolder,
	setFolderArchiving
} from '$lib/server/folders/index.ts';
import type { DocketView } from '$lib/server/docket/index.ts';
import { changing, group, wrongWords } from '../../command.ts';

/* `folder`: the folder tree of a mailbox. Items are moved by a docket. */
const folder = group('folder', 'make, rename, move, merge, pause and remove folders');

type InMailbox = { mailbox: string };
const inMailbox = (c: Command) => c.requiredOption('--mailbox <name>', 'mailbox');
type InTree = InMailbox & { archive?: boolean };
const inTree = (c: Command) => inMailbox(c).option('--archive', 'a folder of the archive');
const treeOf = ({ archive }: InTree) => (archive ? ('archive' as const) : ('mailbox' as const));

const drafted = ({ id, messages, bytes }: DocketView) => ({
	result: { docket: id, messages, bytes },
	lines: [
		`Docket ${id} would move ${showMessages(messages)} (${showBytes(bytes)}). "kovrel docket carry-out ${id}" does it.`
	]
});

changing<InMailbox>(
	'make <path>',
	'make a folder',
	inMailbox,
	async (context, { mailbox }, path = '') => {
		const made = await makeFolder(context, { mailbox, folder: path });
		return {
			result: { folder: made.path, isNew: made.isNew },
			lines: [made.isNew ? `${made.path} is made.` : `${made.path} is there already.`]
		};
	},
	folder
);

changing<InTree>(
	'rename <path> <to>',
	'rename a folder, or move it with those below it',
	inTree,
	async (context, options, path = '', to = '') => {
		const { mailbox } = options;
		const moved = await renameFolder(context, { mailbox, tree: treeOf(options), folder: path, to });
		return {
			result: { folder: moved.path },
			lines: [`${path} is now ${moved.path}.`, followedSentence(moved.followed)].filter(Boolean)
		};
	},
	folder
);

changing<InTree>(
	'merge <path> <into>',
	'draft a docket that moves all mail of a folder into another',
	inTree,
	async (context, options, path = '', into = '') =>
		drafted(await mergeFolder(context, { mailbox: options.mailbox, tree: treeOf(options), folder: path, into })),
	folder
);

changing<InTree & { closes?: boolean }>(
	'per-year <path>',
	'draft a docket that files the mail of a folder into a folder a year below it',
	(c) => inTree(c).option('--closes', 'each is closed on the last day of its year, for retention; not in the archive'),
	async (context, { mailbox, closes, archive }, path = '') => {
		if (closes && archive) throw wrongWords('--closes is about folders of the mailbox');
		return drafted(await folderPerYear(context, { mailbox, tree: treeOf({ mailbox, archive }), folder: path, closes }));
	},
	folder
);

changing<InMailbox>(
	'remove <path...>',
	'remove folders in which nothing lies',
	inMailbox,
	async (context, { mailbox }, ...paths) => {
		const removed = await removeFolders(context, { mailbox, folders: paths });
		return { result: { removed }, lines: [`Removed ${removed.join(', ')}.`] };
	},
	folder
);

changing<InMailbox & { until?: string; because?: string; end?: boolean }>(
	'pause <path>',
	'pause a folder: nothing in it is deleted before a day',
	(c) =>
		inMailbox(c)
			.option('--until <date>', 'the day it ends')
			.option('--because <reason>', 'why')
			.option('--end', 'end it now'),
	async (context, { mailbox, until, because, end }, path = '') => {
		if (end) {
			await endPause(context, { mailbox, folder: path });
			return { result: { folder: path, until: null }, lines: [`The pause of ${path} has ended.`] };
		}
		if (until === undefined || because === undefined) throw wrongWords('a pause needs --until and --because');
		await pauseFolder(context, { mailbox, folder: path, until, because });
		return { result: { folder: path, until }, lines: [`${path} is paused until ${until}.`] };
	},
	folder
);

changing<InMailbox & { end?: boolean }>(
	'never-archive <path>',
	'leave a folder with those below it out of every archiving',
	(c) => inMailbox(c).option('--end', 'allow archiving again'),
	async (context, { mailbox, end }, path = '') => {
		await setFolderArchiving(context, { mailbox, folder: path, neverArchived: end !== true });
		return {
			result: { folder: path, neverArchived: end !== true },
			lines: [end ? `${path} may be archived.` : `${path} is never archived from now on.`]
		};
	},
	folder
);
