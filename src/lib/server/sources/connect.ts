import Joi from 'joi';
import {
	EXTENSIONS,
	leftOnServer,
	quotaSentence,
	TLS_MODES,
	type TlsMode,
	usualPort,
	wrongServer
} from '../../../core/sources/server.ts';
import { showDate } from '../../../core/calendar.ts';
import type { Fetching } from '../../../core/sources/fetching.ts';
import { ServerPaths } from '../../../core/sources/paths.ts';
import { nameKey } from '../../../core/weigh/roles.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import { showCount, showMessages } from '../../../core/weigh/units.ts';
import { type Context, defineUseCase, mailboxRef, text } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import { appendLedger } from '../ledger/index.ts';
import {
	ensureMailbox,
	listMailboxes,
	type Mailbox,
	type MailboxRef,
	requireMailboxId,
	type WaitingForServer
} from '../mail/index.ts';
import { Refusal } from '../refusal.ts';
import type { ImapFlow } from 'imapflow';
import { SieveLine } from './managesieve.ts';
import { aheadBySource } from './ahead-store.ts';
import { type Account, ownPrefix, prefixesOfOthers, ServerTrouble, withServer } from './imap.ts';
import { viewsAmong } from './look-through.ts';
import { countWaiting, waitingBySource } from './outbox-store.ts';
import { open, seal } from './sealed.ts';
import { requireSource } from './require-source.ts';
import {
	endSource,
	type Followed,
	followedWeights,
	type GivenServer,
	formerServer,
	givenServers,
	listStoredSources,
	putFetching,
	putSecret,
	putSource,
	secretOf,
	type Source
} from './sources-store.ts';
import { fetchingFields, fetchingGiven } from './set-fetching.ts';
import { isOver, readSecret, renew, type Renewal, type StoredSecret, writeSecret, wrongRenewal } from './tokens.ts';

/** A server as a person gives it. */
export interface ServerGiven {
	host: string;
	/** Undefined: the usual one. */
	port?: number | undefined;
	tls?: TlsMode | undefined;
	/** PEM of a certificate that is trusted for this server alone. */
	certificate?: string | undefined;
	user: string;
	auth?: 'password' | 'token' | undefined;
	/** The password or token; '' where there is a renewal that gives the first token. */
	secret: string;
	/** How the next bearer token is got. */
	renewal?: Renewal | undefined;
	/** Whether decisions are carried to the server; else it is only read. */
	writes?: boolean | undefined;
	/** The folder there that is the mailbox, where an account sees several; empty: all that it has. */
	root?: string | undefined;
	/** How its mail is fetched; what is not given is as it was, or as usual. */
	fetching?: Partial<Fetching> | undefined;
}

/** What a test of a server found. */
export interface ServerTest {
	/** In words: what works. */
	sentences: string[];
	extensions: { name: string; has: boolean; means: string }[];
	folders: string[];
	messages: number;
}

function accountGiven({
	host,
	tls = 'implicit',
	port,
	certificate,
	user,
	auth = 'password',
	secret,
	renewal
}: Omit<ServerGiven, 'writes'>): Account {
	const account = {
		host: host.trim(),
		tls,
		port: port ?? usualPort(tls),
		certificate: certificate?.trim() || null,
		user: user.trim(),
		auth,
		secret
	};
	const wrong =
		wrongServer(account) ??
		(account.user === '' ? 'Name who signs in there' : undefined) ??
		(renewal && auth !== 'token' ? 'Only a bearer token is renewed: sign in with a token' : undefined) ??
		(renewal ? wrongRenewal(renewal) : secret === '' ? `Give the ${auth}` : undefined) ??
		(account.certificate !== null && !account.certificate.includes('-----BEGIN CERTIFICATE-----')
			? 'A certificate is a file that begins with -----BEGIN CERTIFICATE-----'
			: undefined);
	if (wrong) throw new Refusal('bad-input', `${wrong}. Nothing was changed.`);
	return account;
}

const aboutSecret = ({ host, user }: Pick<Account, 'host' | 'user'>) => `${user} at ${host}`;

async function storedSecretOf(context: Context, source: Source): Promise<StoredSecret> {
	const sealed = await secretOf(context.db, source.id);
	if (!sealed) throw new Refusal('not-found', 'This mailbox is not connected any more.');
	return readSecret(source.auth, open(context.dataFolder, sealed, aboutSecret(source)));
}

/**
 * Who signs in on the server of a live mailbox.
 *
 * @returns undefined if a token has ended: a pass over the mailbox renews it
 * @throws Refusal if the key of its password is not here
 */
export async function accountOf(context: Context, source: Source): Promise<Account | undefined> {
	const stored = await storedSecretOf(context, source);
	return isOver(stored, context.machineNow()) ? undefined : { ...source, secret: stored.secret };
}

/* Stored before it is used: an endpoint may have ended the former refresh token with it. */
async function renewFor(context: Context, source: Source, renewal: Renewal): Promise<StoredSecret> {
	const stored = await renew(renewal, context.machineNow(), context.signal);
	const sealed = seal(context.dataFolder, writeSecret(stored), aboutSecret(source));
	await inTransaction(context.db, (db) => putSecret(db, source.id, sealed));
	return stored;
}

/**
 * Signs in somewhere as on the server of a live mailbox, with a new token where the former one has ended or is not accepted.
 *
 * @param signIn fails as not accepted before anything is done
 * @throws ServerTrouble with a sentence
 */
async function withAccount<T>(context: Context, source: Source, signIn: (account: Account) => Promise<T>): Promise<T> {
	let stored = await storedSecretOf(context, source);
	const { renewal } = stored;
	const isRenewed = renewal !== undefined && isOver(stored, context.machineNow());
	if (isRenewed) stored = await renewFor(context, source, renewal);
	const sign = ({ secret }: StoredSecret) => signIn({ ...source, secret });
	try {
		return await sign(stored);
	} catch (error) {
		// refused before anything was done
		if (isRenewed || !renewal || !(error instanceof ServerTrouble) || !error.isNotAccepted) throw error;
		return sign(await renewFor(context, source, renewal));
	}
}

/** Signs in on the server of a live mailbox. @throws ServerTrouble with a sentence */
export const withSource = <T>(context: Context, source: Source, work: (client: ImapFlow) => Promise<T>): Promise<T> =>
	withAccount(context, source, (account) => withServer(account, context.signal, work));

/** Signs in on the ManageSieve server beside that of a live mailbox. @throws ServerTrouble with a sentence */
export const withSieveServer = <T>(
	context: Context,
	source: Source,
	port: number,
	work: (line: SieveLine) => Promise<T>
): Promise<T> => withAccount(context, source, (account) => SieveLine.with(account, port, work));

async function tested(
	context: Context,
	account: Account,
	{ writes = false, root = '' }: Pick<ServerGiven, 'writes' | 'root'>
): Promise<ServerTest> {
	try {
		return await withServer(account, context.signal, async (client) => {
			const all = await client.list({ statusQuery: { messages: true } });
			const paths = new ServerPaths(all, {
				root: root.trim(),
				prefix: ownPrefix(client),
				ofOthers: prefixesOfOthers(client)
			});
			const seen = all.filter(({ path }) => paths.holds(path));
			const views = viewsAmong(seen, root.trim());
			const listed = seen.filter((entry) => !views.includes(entry));
			const shared =
				root.trim() === '' ? all.filter(({ path, flags }) => !paths.holds(path) && !flags.has('\\Noselect')) : [];
			if (listed.length === 0)
				throw new Refusal(
					'bad-input',
					`${account.user} sees no folder “${root.trim()}” on ${account.host}. Nothing was changed.`
				);
			const messages = listed.reduce((sum, { status }) => sum + (status?.messages ?? 0), 0);
			const extensions = EXTENSIONS.map(({ name, source, with: having, without }) => {
				const has = client.capabilities.has(name);
				return {
					name,
					has,
					means: `${has ? 'It has' : 'It has no'} ${name} (${source}): ${has ? having : without}.`
				};
			});
			return {
				sentences: [
					`${account.user} is signed in on ${account.host}${account.tls === 'none' ? ', without encryption' : ', encrypted'}.`,
					`${showCount(listed.length)} ${listed.length === 1 ? 'folder' : 'folders'} with ${showMessages(messages)} ${listed.length === 1 ? 'is' : 'are'} ${root.trim() === '' ? 'there' : `in ${root.trim()}`}.`,
					...(shared.length > 0
						? [
								`It also sees ${showCount(shared.length)} ${shared.length === 1 ? 'folder' : 'folders'} of other mailboxes, such as ${shared[0]?.path}: connect each of those mailboxes by its folder.`
							]
						: []),
					...views.map(
						({ path }) =>
							`“${path}” shows messages of other folders once more, and is left out. A message that lies there alone is not in Kovrel, and one that leaves its folder may stay there and free nothing.`
					),
					writes
						? 'Kovrel reads them, and carries out there what is decided here.'
						: 'Kovrel reads them, and writes nothing there.'
				],
				extensions,
				folders: listed.map(({ path }) => path),
				messages
			};
		});
	} catch (error) {
		if (error instanceof ServerTrouble)
			throw new Refusal('not-possible', `${error.message} Nothing was changed.`, { cause: error });
		throw error;
	}
}

/** Tries out a server: signs in, lists its folders, and says what it can do. Stores nothing. @throws Refusal */
export async function testServer(context: Context, input: ServerGiven): Promise<ServerTest> {
	const account = accountGiven(input);
	// an endpoint may end a refresh token when it is used, and here its successor would be lost
	if (account.secret === '')
		throw new Refusal(
			'bad-input',
			'To test without connecting, give a token as well: Connect gets the first one from the token endpoint. Nothing was changed.'
		);
	return tested(context, account, input);
}

async function firstSecret(context: Context, secret: string, renewal: Renewal | undefined): Promise<StoredSecret> {
	if (!renewal || secret !== '') return { secret, renewal };
	try {
		return await renew(renewal, context.machineNow(), context.signal);
	} catch (error) {
		if (error instanceof ServerTrouble)
			throw new Refusal('not-possible', `${error.message} Nothing was changed.`, { cause: error });
		throw error;
	}
}

/* Connected under two names, all mail would be here twice, and what is decided in one would be missing in the other. */
async function requireNotTwice(
	context: Context,
	{ id }: Mailbox,
	{ host, user }: Account,
	root: string
): Promise<void> {
	const twin = (await listStoredSources(context.db)).find(
		(source) => source.mailboxId !== id && source.host === host && source.user === user && source.root === root
	);
	if (!twin) return;
	const { name } = await requireMailboxId(context, twin.mailboxId);
	throw new Refusal(
		'not-possible',
		`${user} on ${host}${root ? `, folder “${root}”,` : ''} is the live mailbox ${name} already. Connect it under that name, or disconnect that first. Nothing was changed.`
	);
}

/* What becomes of the mail from the server to which a mailbox was connected before. */
function sentencesOfFormer(
	context: Context,
	{ name }: Mailbox,
	former: GivenServer | undefined,
	{ host, user }: Account
): string[] {
	if (!former) return [];
	const { disconnectedAt } = former;
	const until = disconnectedAt === null ? 'now' : showDate(context.dateOf(Date.parse(disconnectedAt) / 1000));
	if (former.host !== host || former.user !== user)
		return [`${name} was connected to ${former.host} as ${former.user} until ${until}; its mail from there stays.`];
	return disconnectedAt === null
		? []
		: [`${name} was connected to ${host} until ${until}, and Kovrel goes on from there.`];
}

/**
 * Has a mailbox live on a server, which is only read unless writing is allowed. The mail that is here already stays, and is
 * recognised by its bytes.
 *
 * @throws Refusal if the server cannot be used, or is another mailbox's already
 */
export async function connectSource(
	context: Context,
	input: ServerGiven & { mailbox: string; leftOut?: string[] | undefined }
): Promise<ServerTest & { mailboxId: number; mailbox: string }> {
	const before = (await knownServers(context)).find(({ mailbox }) => nameKey(mailbox) === nameKey(input.mailbox));
	const isSame = before?.host === input.host.trim() && before.user === input.user.trim();
	const former = isSame ? before : undefined;
	// a new password or port changes nothing else
	const given = accountGiven({ ...input, certificate: input.certificate ?? former?.certificate ?? undefined });
	const stored = await firstSecret(context, given.secret, input.renewal);
	const account = { ...given, secret: stored.secret };
	const writes = input.writes ?? former?.writes === 1;
	const root = input.root?.trim() ?? former?.root ?? '';
	const found = await tested(context, account, { writes, root });
	const wished = input.leftOut?.map((path) => path.trim()).filter((path) => path !== '');
	const leftOut = wished ?? (former?.leftOut ?? []).filter((path) => found.folders.includes(path));
	const missing = leftOut.find((path) => !found.folders.includes(path));
	if (missing !== undefined)
		throw new Refusal('bad-input', `There is no folder “${missing}” on ${account.host}. Nothing was changed.`);
	return inTransaction(context.db, async (db) => {
		const mailbox = await ensureMailbox(context, db, input.mailbox);
		await requireNotTwice({ ...context, db }, mailbox, account, root);
		const earlier = await formerServer(db, mailbox.id);
		const id = await putSource(
			db,
			{ ...account, mailboxId: mailbox.id, writes: writes ? 1 : 0, root, leftOut },
			{
				secret: seal(context.dataFolder, writeSecret(stored), aboutSecret(account)),
				at: context.now(),
				by: context.actor.name
			}
		);
		const fetching = fetchingGiven(input.fetching ?? {}, former);
		await putFetching(db, id, fetching);
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'source-connected',
			details: {
				mailbox: mailbox.name,
				host: account.host,
				port: account.port,
				user: account.user,
				root,
				leftOut,
				writes,
				...fetching
			}
		});
		await context.follow(db, {
			useCase: 'followSources',
			input: { mailbox: mailbox.name },
			about: { kind: 'live mailboxes', mailbox: mailbox.name }
		});
		const sentences = [...sentencesOfFormer(context, mailbox, earlier, account), ...found.sentences];
		return { ...found, sentences, mailboxId: mailbox.id, mailbox: mailbox.name };
	});
}

/**
 * Ends following: the mail that is here stays, the password is forgotten.
 *
 * @param input.unfinished whether that is wished although mail is on the server alone, or waits for it
 * @throws Refusal if something is unfinished, and that is not wished
 */
export async function disconnectSource(
	context: Context,
	input: { mailbox: MailboxRef; unfinished?: boolean | undefined }
): Promise<{ mailbox: string; sentence: string }> {
	return inTransaction(context.db, async (db) => {
		const { mailbox, source } = await requireSource({ ...context, db }, input.mailbox);
		const { id, host, user, scriptSays } = source;
		const left = leftOnServer({
			...source,
			ahead: (await aheadBySource(db)).get(id) ?? { messages: 0, bytes: 0 },
			waiting: await countWaiting(db, id)
		}).join(' ');
		if (left !== '' && input.unfinished !== true)
			throw new Refusal(
				'not-possible',
				`${mailbox.name} was not disconnected. ${left} Fetch first, or disconnect it unfinished.`
			);
		await endSource(db, id, context.now());
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'source-disconnected',
			details: { mailbox: mailbox.name, host, user, ...(left === '' ? {} : { left }) }
		});
		const script =
			scriptSays === null
				? ''
				: ` Kovrel's script stays on ${host} and goes on there: switch it off with the means of that server.`;
		return {
			mailbox: mailbox.name,
			sentence: `${mailbox.name} is not followed any more. ${left === '' ? 'Its mail stays here' : `${left} The other mail stays here`}; the password is forgotten.${script}`
		};
	});
}

/** A live mailbox in the list; its password is never shown. */
export type SourceView = Source &
	Followed &
	WaitingForServer & {
		/** Mail whose headers are known and whose bytes are still to come. */
		ahead: Weight;
		mailbox: string;
		quotaSentence: string | undefined;
		/** What the server refused last, in words. */
		trouble: string | null;
	};

/** A server to which a mailbox is, or was last, connected, as it was given: without its password. */
export interface KnownServer extends GivenServer {
	mailbox: string;
}

/** The servers to which mailboxes are, or were last, connected: all that is asked for when one is connected again. */
export async function knownServers(context: Context): Promise<KnownServer[]> {
	const names = new Map((await listMailboxes(context.db)).map(({ id, name }) => [id, name]));
	const given = await givenServers(context.db);
	return given.map((server) => ({ ...server, mailbox: names.get(server.mailboxId) ?? '' }));
}

/** The live mailboxes. */
export async function listSources(context: Context): Promise<SourceView[]> {
	const names = new Map((await listMailboxes(context.db)).map(({ id, name }) => [id, name]));
	const weights = await followedWeights(context.db);
	const waiting = await waitingBySource(context.db);
	const ahead = await aheadBySource(context.db);
	return (await listStoredSources(context.db)).map((source) => {
		const followed = weights.get(source.id) ?? { messages: 0, bytes: 0, archived: 0 };
		return {
			...source,
			...followed,
			...(waiting.get(source.id) ?? { waiting: 0, refused: 0, trouble: null }),
			ahead: ahead.get(source.id) ?? { messages: 0, bytes: 0 },
			certificate: null,
			mailbox: names.get(source.mailboxId) ?? '',
			quotaSentence: quotaSentence({ ...source, ...followed })
		};
	});
}

const serverFields = {
	host: Joi.string().allow('').max(253).required(),
	port: Joi.number(),
	tls: Joi.valid(...TLS_MODES),
	certificate: Joi.string().allow('').max(20_000),
	user: Joi.string().allow('').max(320).required(),
	auth: Joi.valid('password', 'token'),
	writes: Joi.boolean(),
	fetching: Joi.object(fetchingFields),
	root: Joi.string().allow('').max(1_000),
	secret: Joi.string().allow('').max(10_000).required(),
	renewal: Joi.object({
		endpoint: Joi.string().allow('').max(2_000).required(),
		refreshToken: Joi.string().allow('').max(10_000).required(),
		clientId: Joi.string().allow('').max(1_000).required(),
		clientSecret: Joi.string().empty('').max(1_000)
	})
};

/** The use cases of this file. */
export const connectUseCases = [
	defineUseCase({
		name: 'testServer',
		input: () => Joi.object(serverFields).required(),
		thread: 'opener',
		right: 'administrator',
		run: testServer
	}),
	defineUseCase({
		name: 'connectSource',
		input: () =>
			Joi.object({
				...serverFields,
				mailbox: text.required(),
				leftOut: Joi.array().items(Joi.string().allow('').max(1_000)).max(500)
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: connectSource
	}),
	defineUseCase({
		name: 'disconnectSource',
		input: () => Joi.object({ mailbox: mailboxRef.required(), unfinished: Joi.boolean() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: disconnectSource
	}),
	defineUseCase({ name: 'knownServers', thread: 'reader', right: 'administrator', run: knownServers }),
	defineUseCase({ name: 'listSources', thread: 'reader', right: 'administrator', run: listSources })
] as const;
