import Joi from 'joi';
import { followedSentence } from '../../../../../core/search/renamed.ts';
import type { Actions, PageServerLoad, RequestEvent } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';

/* The page shows the folders of the mailbox or of its archive. */
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
		tags: (await answered(office.ask('listTags', undefined, who))).filter(({ hidden }) => !hidden),
		pauses: (await answered(office.ask('listBin', { mailboxId, limit: 1 }, who))).pauses
	};
};

const path = Joi.string().trim().max(2000);
const folderFields = { folder: path.required() };
const folderSchema = Joi.object<{ folder: string }>(folderFields);
const otherSchema = Joi.object<{ folder: string; to: string }>({ ...folderFields, to: path.required() });
const yearsSchema = Joi.object<{ folder: string; closes?: string }>({
	...folderFields,
	closes: Joi.string().allow('')
});
const pauseSchema = Joi.object<{ folder: string; until: string; because: string }>({
	...folderFields,
	until: Joi.string().max(10).required(),
	because: Joi.string().allow('').max(500).required()
});
const decideSchema = Joi.object<{ folder: string; decision: 'archive' | 'delete' | 'tag'; to: string }>({
	...folderFields,
	decision: Joi.string().valid('archive', 'delete', 'tag').required(),
	to: Joi.string().allow('').max(200).default('')
});

const DECIDED = {
	archive: 'is archived by the docket',
	delete: 'is emptied into the bin by the docket',
	tag: 'is tagged by the docket'
};

/* An action on one folder, and its message when done. */
const onFolder = <V extends { folder: string }, R>(
	schema: Joi.ObjectSchema<V>,
	act: (asked: V, locals: App.Locals, of: { mailbox: number; tree: 'mailbox' | 'archive' }) => Promise<R>,
	said: (asked: V) => string,
	more: (result: R) => string = () => ''
) =>
	formAction(
		schema,
		async (asked: V, { locals, params, url }: RequestEvent) => {
			const result = await act(asked, locals, { mailbox: Number(params.mailbox), tree: treeOf(url) });
			return { said: `${asked.folder} ${said(asked)}. ${more(result)}`.trim() };
		},
		{ wrong: 'The folder, or what is to become of it, is missing. Nothing was changed.' }
	);

export const actions: Actions = {
	make: onFolder(
		folderSchema,
		({ folder }, { office, who }, { mailbox }) => office.change('makeFolder', { mailbox, folder }, who),
		() => 'was created'
	),
	rename: onFolder(
		otherSchema,
		({ folder, to }, { office, who }, of) => office.change('renameFolder', { ...of, folder, to }, who),
		({ to }) => `is now ${to}`,
		({ followed }) => followedSentence(followed)
	),
	merge: onFolder(
		otherSchema,
		({ folder, to }, { office, who }, of) => office.change('mergeFolder', { ...of, folder, into: to }, who),
		({ to }) => `is merged into ${to} when the docket is carried out`
	),
	perYear: onFolder(
		yearsSchema,
		({ folder, closes }, { office, who }, of) =>
			office.change('folderPerYear', { ...of, folder, closes: closes !== undefined }, who),
		() => 'is divided by year when the docket is carried out'
	),
	remove: onFolder(
		folderSchema,
		({ folder }, { office, who }, { mailbox }) => office.change('removeFolders', { mailbox, folders: [folder] }, who),
		() => 'was removed'
	),
	pause: onFolder(
		pauseSchema,
		(pause, { office, who }, { mailbox }) => office.change('pauseFolder', { mailbox, ...pause }, who),
		() => 'was paused'
	),
	endPause: onFolder(
		folderSchema,
		({ folder }, { office, who }, { mailbox }) => office.change('endPause', { mailbox, folder }, who),
		() => 'is no longer paused'
	),
	neverArchive: onFolder(
		folderSchema,
		({ folder }, { office, who }, { mailbox }) =>
			office.change('setFolderArchiving', { mailbox, folder, neverArchived: true }, who),
		() => 'is now never archived'
	),
	allowArchiving: onFolder(
		folderSchema,
		({ folder }, { office, who }, { mailbox }) =>
			office.change('setFolderArchiving', { mailbox, folder, neverArchived: false }, who),
		() => 'may be archived'
	),
	decide: onFolder(
		decideSchema,
		({ folder, decision, to }, { office, who }, { mailbox: mailboxId }) => {
			const options = decision === 'tag' ? { tag: to } : {};
			return office.change('decideLots', { mailboxId, by: 'folder', folder, decision, options }, who);
		},
		({ decision }) => DECIDED[decision]
	)
};
