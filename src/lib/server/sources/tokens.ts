import { request as requestPlain } from 'node:http';
import { request } from 'node:https';
import Joi from 'joi';
import { isLoopback } from '../../../core/sources/server.ts';
import { ServerTrouble } from './imap.ts';

/** What is needed to get the next bearer token (RFC 6749 section 6). */
export interface Renewal {
	/** Where tokens are given: https, or http on this machine. */
	endpoint: string;
	refreshToken: string;
	clientId: string;
	clientSecret?: string | undefined;
}

/** A secret as it is stored: a password, or a bearer token with what gives the next one. */
export interface StoredSecret {
	secret: string;
	/** Until when a token is good; milliseconds since 1970. Undefined: the endpoint did not say. */
	until?: number | undefined;
	renewal?: Renewal | undefined;
}

/* A token that ends within that is renewed before it is used. */
const MARGIN_MS = 60_000;
const TIME_LIMIT_MS = 15_000;
const LONGEST_ANSWER = 65_536;

const storedSchema = Joi.object<StoredSecret>({
	secret: Joi.string().allow('').required(),
	until: Joi.number(),
	renewal: Joi.object({
		endpoint: Joi.string().required(),
		refreshToken: Joi.string().required(),
		clientId: Joi.string().required(),
		clientSecret: Joi.string()
	}).required()
});

/** A secret as text; one without renewal is its own text. */
export const writeSecret = (stored: StoredSecret): string => (stored.renewal ? JSON.stringify(stored) : stored.secret);

/** Reads what {@link writeSecret} wrote. A bearer token has no braces (RFC 6750 section 2.1). */
export function readSecret(auth: 'password' | 'token', text: string): StoredSecret {
	if (auth !== 'token' || !text.startsWith('{')) return { secret: text };
	return Joi.attempt(JSON.parse(text), storedSchema) as StoredSecret;
}

/** Whether a token has to be renewed before it is used. */
export const isOver = ({ secret, until, renewal }: StoredSecret, now: Date): boolean =>
	renewal !== undefined && (secret === '' || (until !== undefined && until - now.getTime() < MARGIN_MS));

/** What is wrong with a renewal, as a sentence without its full stop; undefined: nothing. */
export function wrongRenewal({ endpoint, refreshToken, clientId }: Renewal): string | undefined {
	if (refreshToken === '') return 'Give the refresh token';
	if (clientId === '') return 'Give the client ID with which the refresh token was made';
	const url = URL.canParse(endpoint) ? new URL(endpoint) : undefined;
	if (url?.protocol === 'https:' || (url?.protocol === 'http:' && isLoopback(url.hostname))) return undefined;
	return 'The token endpoint is an address that begins with https://';
}

/* Redirects are not followed: the refresh token goes to the endpoint that was named, and nowhere else. */
function post(endpoint: string, body: string, signal: AbortSignal): Promise<{ status: number; text: string }> {
	const url = new URL(endpoint);
	const send = url.protocol === 'https:' ? request : requestPlain;
	return new Promise((resolve, reject) => {
		const asked = send(
			url,
			{
				method: 'POST',
				agent: false,
				signal: AbortSignal.any([signal, AbortSignal.timeout(TIME_LIMIT_MS)]),
				headers: {
					accept: 'application/json',
					'content-type': 'application/x-www-form-urlencoded',
					'content-length': Buffer.byteLength(body)
				}
			},
			(response) => {
				let text = '';
				response.setEncoding('utf8');
				response.on('data', (part: string) => {
					text += part;
					if (text.length > LONGEST_ANSWER) asked.destroy(new Error('its answer is too long'));
				});
				response.on('end', () => resolve({ status: response.statusCode ?? 0, text }));
				response.on('error', reject);
			}
		);
		asked.on('error', reject);
		asked.end(body);
	});
}

interface TokenAnswer {
	access_token: string;
	expires_in?: number;
	refresh_token?: string;
}

/* RFC 6749 section 5.1. */
const answerSchema = Joi.object<TokenAnswer>({
	access_token: Joi.string().max(20_000).required(),
	expires_in: Joi.number().positive(),
	refresh_token: Joi.string().max(20_000)
}).unknown();

/* The endpoint's word for a refusal (RFC 6749 section 5.2). */
function errorIn(text: string): string {
	try {
		const { error, error_description: description } = JSON.parse(text) as Record<string, unknown>;
		const said = [error, description].filter((one) => typeof one === 'string').join(': ');
		return said === '' ? '' : ` (“${said.replaceAll(/\s+/g, ' ').slice(0, 200)}”)`;
	} catch {
		return '';
	}
}

/**
 * Gets the next bearer token with the refresh token (RFC 6749 section 6). An endpoint may give another refresh token with
 * it, which has to be stored in the place of the former one.
 *
 * @throws ServerTrouble with a sentence
 */
export async function renew(renewal: Renewal, now: Date, signal: AbortSignal): Promise<StoredSecret> {
	const { endpoint, refreshToken, clientId, clientSecret } = renewal;
	const { host } = new URL(endpoint);
	const form = new URLSearchParams({
		grant_type: 'refresh_token',
		refresh_token: refreshToken,
		client_id: clientId,
		...(clientSecret ? { client_secret: clientSecret } : {})
	});
	let answer: { status: number; text: string };
	try {
		answer = await post(endpoint, form.toString(), signal);
	} catch (cause) {
		const { code = '', message } = cause as { code?: string; message: string };
		throw new ServerTrouble(`The token endpoint at ${host} cannot be reached (${code || message}).`, { cause });
	}
	if (answer.status !== 200)
		throw new ServerTrouble(
			`The token endpoint at ${host} gives no token: it answered ${answer.status}${errorIn(answer.text)}. Connect the mailbox again with a new refresh token.`
		);
	try {
		const given = Joi.attempt(JSON.parse(answer.text), answerSchema) as TokenAnswer;
		const { access_token: secret, expires_in: seconds, refresh_token: next } = given;
		return {
			secret,
			until: seconds === undefined ? undefined : now.getTime() + seconds * 1_000,
			renewal: { ...renewal, refreshToken: next ?? refreshToken }
		};
	} catch (cause) {
		throw new ServerTrouble(`The token endpoint at ${host} did not answer with a token.`, { cause });
	}
}
