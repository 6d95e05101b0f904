import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';
import { TLS_MODES, type TlsMode } from '../../../core/sources/server.ts';

export const load: PageServerLoad = async ({ locals }) => ({
	sources: await answered(locals.office.ask('listSources', undefined, locals.who))
});

interface AccountForm {
	host: string;
	port: number | undefined;
	tls: TlsMode;
	user: string;
	auth: 'password' | 'token';
	secret: string;
	endpoint: string;
	refreshToken: string;
	clientId: string;
	clientSecret: string;
	certificate: string;
}
const line = Joi.string().allow('').max(10_000).default('');
const account = {
	host: Joi.string().allow('').max(253).required(),
	port: Joi.number().integer().empty(''),
	tls: Joi.valid(...TLS_MODES).required(),
	user: Joi.string().allow('').max(320).required(),
	auth: Joi.valid('password', 'token').required(),
	secret: Joi.string().allow('').max(10_000).required(),
	...{ endpoint: line, refreshToken: line, clientId: line, clientSecret: line },
	certificate: Joi.string().allow('').max(20_000).default('')
};

/* What renews a token is given as a whole, or not at all. */
const serverGiven = <T extends AccountForm>({ endpoint, refreshToken, clientId, clientSecret, ...given }: T) => ({
	...given,
	...(given.auth === 'token' && endpoint.trim() !== ''
		? { renewal: { endpoint: endpoint.trim(), refreshToken, clientId, clientSecret } }
		: {})
});

const mailbox = Joi.object<{ mailbox: string }>({ mailbox: Joi.string().max(200).required() });

export const actions: Actions = {
	test: formAction(
		Joi.object<AccountForm>(account),
		async (wish, { locals }) => ({ tested: await locals.office.ask('testServer', serverGiven(wish), locals.who) }),
		{ at: 'connect' }
	),
	connect: formAction(
		Joi.object<AccountForm & { mailbox: string; leftOut: string }>({
			...account,
			mailbox: Joi.string().max(200).required().messages({ 'string.empty': 'Name the mailbox here' }),
			leftOut: Joi.string().allow('').max(20_000).default('')
		}),
		async ({ leftOut, ...given }, { locals }) => {
			const done = await locals.office.change(
				'connectSource',
				{ ...serverGiven(given), leftOut: leftOut.split(/\r?\n/) },
				locals.who
			);
			return { tested: done, connected: done.mailbox };
		},
		{ at: 'connect' }
	),
	fetch: formAction(mailbox, async (wish, { locals }) => {
		await locals.office.start('followSources', wish, locals.who);
		return { fetching: wish.mailbox };
	}),
	write: formAction(
		Joi.object<{ mailbox: string; writes: boolean; archiveOn: 'kovrel' | 'server'; earlier: boolean }>({
			mailbox: Joi.string().max(200).required(),
			writes: Joi.boolean().default(false),
			archiveOn: Joi.valid('kovrel', 'server').default('kovrel'),
			earlier: Joi.boolean().default(false)
		}),
		async (wish, { locals }) => ({
			writing: { ...(await locals.office.change('allowWriting', wish, locals.who)), carriesEarlier: wish.earlier }
		})
	),
	retry: formAction(mailbox, async (wish, { locals }) => ({
		retried: await locals.office.change('retryRefused', wish, locals.who)
	})),
	disconnect: formAction(mailbox, async (wish, { locals }) => {
		await locals.office.change('disconnectSource', wish, locals.who);
		return { disconnected: wish.mailbox };
	})
};
