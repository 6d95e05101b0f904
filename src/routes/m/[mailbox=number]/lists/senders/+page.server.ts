import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { MARK_KINDS, type MarkKind, type Verdict, VERDICTS } from '../../../../../core/lists/senders.ts';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';

export const load: PageServerLoad = async ({ locals, params }) => {
	const { office, who } = locals;
	const { mailbox } = await answered(
		office.ask('mailboxFolders', { mailboxId: Number(params.mailbox), tree: 'mailbox' }, who)
	);
	return { marks: await answered(office.ask('listSenders', undefined, who)), mailbox };
};

interface Asked {
	sender: string;
	verdict: Verdict | 'none';
	kind?: MarkKind;
	confirm: string;
}
const schema = Joi.object<Asked>({
	sender: Joi.string().trim().max(300).required(),
	verdict: Joi.string()
		.valid(...VERDICTS, 'none')
		.required(),
	kind: Joi.string().valid(...MARK_KINDS),
	confirm: Joi.string().allow('').max(300).default('')
});
const judgedSchema = Joi.object<{ from: string; list: string }>({
	from: Joi.string().trim().max(300).required(),
	list: Joi.string().allow('').trim().max(300).default('')
});
const junkSchema = Joi.object<{ junkDays: number; clearsJunk?: string }>({
	junkDays: Joi.number().integer().min(1).max(3650).required(),
	clearsJunk: Joi.string().allow('')
});

export const actions: Actions = {
	mark: formAction(
		schema,
		async ({ sender, verdict, kind, confirm }, { locals }) => {
			const input = {
				// a mark is removed by its stored name
				sender: kind === 'tld' ? `.${sender}` : sender,
				kind: kind === 'list' ? kind : undefined,
				verdict: verdict === 'none' ? undefined : verdict,
				confirm
			};
			const { before } = await locals.office.change('markSender', input, locals.who);
			return { marked: { sender, kind, verdict, before: before ?? ('none' as const) } };
		},
		{ wrong: 'Write down a sender first. Nothing was changed.' }
	),
	tryBlock: formAction(
		Joi.object<{ sender: string }>({ sender: Joi.string().trim().max(300).required() }),
		async ({ sender }, { locals }) => ({
			tried: { sender, ...(await locals.office.ask('tryBlocking', { sender }, locals.who)) }
		}),
		{ wrong: 'Write down a sender first. Nothing was changed.' }
	),
	judge: formAction(
		judgedSchema,
		async (asked, { locals }) => {
			const { sentence } = await locals.office.ask('judgeSender', asked, locals.who);
			return { judged: sentence, from: asked.from };
		},
		{ wrong: 'Write down an address first.' }
	),
	junk: formAction(
		junkSchema,
		async ({ junkDays, clearsJunk }, { locals, params }) => {
			const input = { mailbox: Number(params.mailbox), junkDays, clearsJunk: clearsJunk !== undefined };
			await locals.office.change('setClearing', input, locals.who);
			return { junkSet: true };
		},
		{ wrong: 'Junk stays for 1 to 3,650 days. Nothing was changed.' }
	)
};
