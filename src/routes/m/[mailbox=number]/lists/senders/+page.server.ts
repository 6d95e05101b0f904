import { fail } from '@sveltejs/kit';
import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { MARK_KINDS, type MarkKind, type Verdict, VERDICTS } from '../../../../../core/lists/senders.ts';
import { answered, attempted } from '$lib/server/web/answers.ts';

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
}
const schema = Joi.object<Asked>({
	sender: Joi.string().trim().max(300).required(),
	verdict: Joi.string()
		.valid(...VERDICTS, 'none')
		.required(),
	kind: Joi.string().valid(...MARK_KINDS)
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
	mark: async ({ locals, request }) => {
		const { value, error } = schema.validate(Object.fromEntries(await request.formData()));
		if (error) return fail(400, { message: 'Write down a sender first. Nothing was changed.' });
		const { sender, verdict } = value;
		// a mark that is taken off is named as it is stored
		const kind = value.kind === 'list' ? value.kind : undefined;
		const named = value.kind === 'tld' ? `.${sender}` : sender;
		const done = await attempted(
			locals.office.change(
				'markSender',
				{ sender: named, kind, verdict: verdict === 'none' ? undefined : verdict },
				locals.who
			)
		);
		return 'refused' in done ? fail(done.status, { message: done.refused }) : { marked: sender };
	},
	judge: async ({ locals, request }) => {
		const { value, error } = judgedSchema.validate(Object.fromEntries(await request.formData()));
		if (error) return fail(400, { message: 'Write down an address first.' });
		const { sentence } = await answered(locals.office.ask('judgeSender', value, locals.who));
		return { judged: sentence, from: value.from };
	},
	junk: async ({ locals, params, request }) => {
		const { value, error } = junkSchema.validate(Object.fromEntries(await request.formData()));
		if (error) return fail(400, { message: 'Junk stays for 1 to 3,650 days. Nothing was changed.' });
		const done = await attempted(
			locals.office.change(
				'setClearing',
				{ mailbox: Number(params.mailbox), junkDays: value.junkDays, clearsJunk: value.clearsJunk !== undefined },
				locals.who
			)
		);
		return 'refused' in done ? fail(done.status, { message: done.refused }) : { junkSet: true };
	}
};
