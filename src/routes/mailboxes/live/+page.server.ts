import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';
import { Refusal } from '$lib/server/refusal.ts';
import { FETCH_ORDERS, type Fetching, type FetchOrder, USUAL_FETCHING } from '../../../core/sources/fetching.ts';
import { TLS_MODES, type TlsMode } from '../../../core/sources/server.ts';
import { readBytes } from '../../../core/weigh/units.ts';

export const load: PageServerLoad = async ({ locals }) => ({
	sources: await answered(locals.office.ask('listSources', undefined, locals.who)),
	servers: await answered(locals.office.ask('knownServers', undefined, locals.who))
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

interface FetchingForm {
	fetchFirst: FetchOrder;
	limit: string;
	connections: number;
}
const fetchingForm = {
	fetchFirst: Joi.valid(...FETCH_ORDERS).required(),
	limit: Joi.string().trim().allow('').max(50).default(''),
	connections: Joi.number().required()
};

function fetchingWished({ limit, ...fetching }: FetchingForm): Fetching {
	const bytesASecond = limit === '' ? null : readBytes(limit);
	if (bytesASecond === undefined)
		throw new Refusal('bad-input', `"${limit}" is no size; write 500 kB or 2 MB. Nothing was changed.`);
	return { ...fetching, bytesASecond };
}

const isUsual = ({ fetchFirst, bytesASecond, connections }: Fetching) =>
	fetchFirst === USUAL_FETCHING.fetchFirst &&
	bytesASecond === USUAL_FETCHING.bytesASecond &&
	connections === USUAL_FETCHING.connections;

const mailbox = Joi.object<{ mailbox: string }>({ mailbox: Joi.string().max(200).required() });

export const actions: Actions = {
	test: formAction(
		Joi.object<AccountForm & { root: string }>({ ...account, root: Joi.string().trim().empty('').max(1_000) }),
		async (wish, { locals }) => ({ tested: await locals.office.ask('testServer', serverGiven(wish), locals.who) }),
		{ at: 'connect' }
	),
	connect: formAction(
		Joi.object<AccountForm & FetchingForm & { mailbox: string; leftOut: string; root: string; isFilled: boolean }>({
			...account,
			...fetchingForm,
			isFilled: Joi.boolean().default(false),
			root: Joi.string().trim().allow('').max(1_000).default(''),
			mailbox: Joi.string().max(200).required().messages({ 'string.empty': 'Name the mailbox here' }),
			leftOut: Joi.string().allow('').max(20_000).default('')
		}),
		async ({ leftOut, fetchFirst, limit, connections, isFilled, root, ...given }, { locals }) => {
			const fetching = fetchingWished({ fetchFirst, limit, connections });
			// what was left empty, where nothing was filled in, is not said: it stays as it was set before
			const said = <T>(value: T, isEmpty: boolean) => (isFilled || !isEmpty ? value : undefined);
			const wish = {
				...serverGiven(given),
				root: said(root, root === ''),
				certificate: said(given.certificate, given.certificate.trim() === ''),
				leftOut: said(leftOut.split(/\r?\n/), leftOut.trim() === ''),
				fetching: said(fetching, isUsual(fetching))
			};
			const done = await locals.office.change('connectSource', wish, locals.who);
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
	fetching: formAction(
		Joi.object<FetchingForm & { mailbox: string }>({ ...fetchingForm, mailbox: Joi.string().max(200).required() }),
		async ({ mailbox, ...wish }, { locals }) => ({
			fetching: await locals.office.change('setFetching', { mailbox, ...fetchingWished(wish) }, locals.who)
		})
	),
	retry: formAction(mailbox, async (wish, { locals }) => ({
		retried: await locals.office.change('retryRefused', wish, locals.who)
	})),
	disconnect: formAction(
		Joi.object<{ mailbox: string; unfinished: boolean }>({
			mailbox: Joi.string().max(200).required(),
			unfinished: Joi.boolean().default(false)
		}),
		async (wish, { locals }) => {
			const { sentence } = await locals.office.change('disconnectSource', wish, locals.who);
			return { disconnected: sentence };
		}
	)
};
