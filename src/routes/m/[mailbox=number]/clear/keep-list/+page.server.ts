import { fail } from '@sveltejs/kit';
import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import type { DecisionOptions } from '../../../../../core/docket/decision.ts';
import { answered, attempted } from '$lib/server/web/answers.ts';

export const load: PageServerLoad = async ({ locals, params }) => {
	const mailboxId = Number(params.mailbox);
	const { office, who } = locals;
	const { folders } = await answered(office.ask('mailboxFolders', { mailboxId, tree: 'mailbox' }, who));
	return {
		folders: folders.map(({ path }) => path),
		tags: (await answered(office.ask('listTags', { mailboxId }, who))).map(({ name }) => name),
		standing: await answered(office.ask('standingKeepLines', { mailboxId }, who))
	};
};

interface Asked {
	text: string;
	all?: string;
	standing?: string;
	decision?: 'keep' | 'tag' | 'move';
	tag: string;
	folder: string;
}
const askedSchema = Joi.object<Asked>({
	text: Joi.string().max(2_000_000).required().messages({ '*': 'Paste or write the list first. Nothing was done.' }),
	all: Joi.string().allow(''),
	standing: Joi.string().allow(''),
	decision: Joi.string().valid('keep', 'tag', 'move'),
	tag: Joi.string().allow('').max(200).default(''),
	folder: Joi.string().allow('').max(2000).default('')
});

function optionsOf({ decision, tag, folder }: Asked): DecisionOptions {
	return decision === 'tag' ? { tag } : decision === 'move' ? { folder } : {};
}

export const actions: Actions = {
	search: async ({ locals, params, request }) => {
		const { value, error } = askedSchema.validate(Object.fromEntries(await request.formData()), { stripUnknown: true });
		if (error) return fail(400, { message: error.message });
		const mailboxId = value.all === undefined ? Number(params.mailbox) : undefined;
		const hits = await attempted(locals.office.ask('searchKeepList', { mailboxId, text: value.text }, locals.who));
		return 'refused' in hits
			? fail(hits.status, { message: hits.refused, text: value.text })
			: { hits: hits.done, text: value.text, all: value.all !== undefined };
	},
	decide: async ({ locals, params, request }) => {
		const { value, error } = askedSchema.validate(Object.fromEntries(await request.formData()), { stripUnknown: true });
		if (error || !value.decision)
			return fail(400, { message: error?.message ?? 'Choose what to do. Nothing was done.' });
		const decided = await attempted(
			locals.office.change(
				'decideKeepList',
				{
					mailboxId: value.all === undefined ? Number(params.mailbox) : undefined,
					text: value.text,
					decision: value.decision,
					options: optionsOf(value),
					standing: value.standing !== undefined
				},
				locals.who
			)
		);
		return 'refused' in decided
			? fail(decided.status, { message: decided.refused, text: value.text })
			: { decided: decided.done.length };
	},
	drop: async ({ locals, params, request }) => {
		const lineId = Number((await request.formData()).get('line'));
		const dropped = await attempted(
			locals.office.change('dropKeepLine', { mailboxId: Number(params.mailbox), lineId }, locals.who)
		);
		return 'refused' in dropped ? fail(dropped.status, { message: dropped.refused }) : { dropped: true };
	}
};
