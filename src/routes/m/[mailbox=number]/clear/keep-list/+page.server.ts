import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import type { DecisionOptions } from '../../../../../core/docket/decision.ts';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';

export const load: PageServerLoad = async ({ locals, params }) => {
	const mailboxId = Number(params.mailbox);
	const { office, who } = locals;
	const { folders } = await answered(office.ask('mailboxFolders', { mailboxId, tree: 'mailbox' }, who));
	return {
		folders: folders.map(({ path }) => path),
		tags: (await answered(office.ask('listTags', undefined, who))).map(({ name }) => name),
		standing: await answered(office.ask('standingKeepLines', { mailboxId }, who))
	};
};

interface Asked {
	text: string;
	all?: string;
}
interface Decided extends Asked {
	standing?: string;
	decision: 'keep' | 'tag' | 'move';
	tag: string;
	folder: string;
}
const askedFields = { text: Joi.string().max(2_000_000).required(), all: Joi.string().allow('') };
const askedSchema = Joi.object<Asked>(askedFields);
const decidedSchema = Joi.object<Decided>({
	...askedFields,
	standing: Joi.string().allow(''),
	decision: Joi.string().valid('keep', 'tag', 'move').required(),
	tag: Joi.string().allow('').max(200).default(''),
	folder: Joi.string().allow('').max(2000).default('')
});
const lineSchema = Joi.object<{ line: number }>({ line: Joi.number().integer().positive().required() });

function optionsOf({ decision, tag, folder }: Decided): DecisionOptions {
	return decision === 'tag' ? { tag } : decision === 'move' ? { folder } : {};
}

/* Undefined: the lines are searched in every mailbox. */
const mailboxOf = ({ all }: Asked, mailbox: string) => (all === undefined ? Number(mailbox) : undefined);

export const actions: Actions = {
	search: formAction(
		askedSchema,
		async (asked, { locals, params }) => {
			const input = { mailboxId: mailboxOf(asked, params.mailbox), text: asked.text };
			const hits = await locals.office.ask('searchKeepList', input, locals.who);
			return { hits, text: asked.text, all: asked.all !== undefined };
		},
		{ wrong: 'Paste or write the list first. Nothing was done.' }
	),
	decide: formAction(
		decidedSchema,
		async (asked, { locals, params }) => {
			const input = {
				mailboxId: mailboxOf(asked, params.mailbox),
				text: asked.text,
				decision: asked.decision,
				options: optionsOf(asked),
				standing: asked.standing !== undefined
			};
			const decided = await locals.office.change('decideKeepList', input, locals.who);
			return { decided: decided.length };
		},
		{ wrong: 'Select what to do. Nothing was done.' }
	),
	drop: formAction(lineSchema, async ({ line }, { locals, params }) => {
		const input = { mailboxId: Number(params.mailbox), lineId: line };
		await locals.office.change('discardKeepLine', input, locals.who);
		return { dropped: true };
	})
};
