import { fail } from '@sveltejs/kit';
import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered, attempted } from '$lib/server/web/answers.ts';

/* The page shows the folders of the mailbox, or those of its archive. */
const treeOf = (url: URL) => (url.searchParams.get('tree') === 'archive' ? ('archive' as const) : ('mailbox' as const));

export const load: PageServerLoad = async ({ locals, params, url }) => {
	const mailboxId = Number(params.mailbox);
	const { office, who } = locals;
	const tree = treeOf(url);
	const { folders, mailbox } = await answered(office.ask('mailboxFolders', { mailboxId, tree }, who));
	return {
		tree,
		mailbox,
		folders,
		tags: (await answered(office.ask('listTags', { mailboxId }, who))).filter(({ hidden }) => !hidden),
		pauses: (await answered(office.ask('listBin', { mailboxId, limit: 1 }, who))).pauses
	};
};

type What = 'make' | 'rename' | 'merge' | 'per-year' | 'remove' | 'pause' | 'end-pause' | 'archive' | 'delete' | 'tag';
interface Asked {
	folder: string;
	what: What;
	to: string;
	until: string;
	because: string;
	closes: string;
}
const askedSchema = Joi.object<Asked>({
	folder: Joi.string().trim().max(2000).required().messages({ '*': 'A folder needs a name. Nothing was changed.' }),
	what: Joi.string()
		.valid('make', 'rename', 'merge', 'per-year', 'remove', 'pause', 'end-pause', 'archive', 'delete', 'tag')
		.required(),
	to: Joi.string().allow('').max(2000).default(''),
	until: Joi.string().allow('').max(10).default(''),
	because: Joi.string().allow('').max(500).default(''),
	closes: Joi.string().allow('').max(3).default('')
});

/* What each word of the page has done. */
function change(
	{ office, who }: App.Locals,
	mailboxId: number,
	tree: 'mailbox' | 'archive',
	{ folder, what, to, until, because, closes }: Asked
) {
	const of = { mailbox: mailboxId, folder };
	const decide = (decision: 'archive' | 'delete' | 'tag') =>
		office.change(
			'decideLots',
			{
				mailboxId,
				by: 'folder',
				folder,
				decision,
				options: decision === 'tag' ? { tag: to } : {}
			},
			who
		);
	switch (what) {
		case 'make':
			return office.change('makeFolder', of, who);
		case 'rename':
			return office.change('renameFolder', { ...of, tree, to }, who);
		case 'merge':
			return office.change('mergeFolder', { ...of, tree, into: to }, who);
		case 'per-year':
			return office.change('folderPerYear', { ...of, tree, closes: closes !== '' }, who);
		case 'remove':
			return office.change('removeFolders', { mailbox: mailboxId, folders: [folder] }, who);
		case 'pause':
			return office.change('pauseFolder', { ...of, until, because }, who);
		case 'end-pause':
			return office.change('endPause', of, who);
		default:
			return decide(what);
	}
}

/* A folder of the archive is there as long as something lies in it. */
const IN_ARCHIVE: readonly What[] = ['rename', 'merge', 'per-year'];

const SAID: Record<What, string> = {
	make: 'is there',
	rename: 'has its new place',
	merge: 'goes into the other by the docket',
	'per-year': 'is divided by year by the docket',
	remove: 'is removed',
	pause: 'is paused',
	'end-pause': 'is paused no longer',
	archive: 'is archived by the docket',
	delete: 'is emptied into the bin by the docket',
	tag: 'is tagged by the docket'
};

export const actions: Actions = {
	default: async ({ locals, params, request, url }) => {
		const { value, error } = askedSchema.validate(Object.fromEntries(await request.formData()));
		if (error) return fail(400, { message: error.message });
		const tree = treeOf(url);
		if (tree === 'archive' && !IN_ARCHIVE.includes(value.what))
			return fail(400, { message: 'That is for folders of the mailbox. Nothing was changed.' });
		const changed = await attempted<unknown>(change(locals, Number(params.mailbox), tree, value));
		return 'refused' in changed
			? fail(changed.status, { message: changed.refused })
			: { said: `${value.folder} ${SAID[value.what]}.` };
	}
};
