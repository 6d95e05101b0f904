import { readFileSync } from 'node:fs';
import { FETCH_ORDERS, type Fetching } from '../../../core/sources/fetching.ts';
import { TLS_MODES } from '../../../core/sources/server.ts';
import { readBytes, showBytes, showCount, showMessages } from '../../../core/weigh/units.ts';
import {
	allowWriting,
	connectSource,
	disconnectSource,
	followSources,
	listSources,
	type PassDone,
	retryRefused,
	setFetching
} from '$lib/server/sources/index.ts';
import { command, oneOf, readNumber, wrongWords } from '../../command.ts';
import { askSecretly } from '../../terminal.ts';

interface Credentials {
	token?: boolean;
	tokenEndpoint?: string;
	refreshTokenFile?: string;
	clientId?: string;
	clientSecretFile?: string;
	passwordFile?: string;
}

const readLine = (file: string) => readFileSync(file, 'utf8').replace(/\r?\n$/, '');

/* Never an argument: those of a process are seen by everybody on the machine. */
async function readCredentials(options: Credentials, user: string, host: string) {
	const { tokenEndpoint: endpoint, refreshTokenFile, clientId = '', clientSecretFile, passwordFile } = options;
	if (endpoint === undefined) {
		const auth = options.token ? ('token' as const) : ('password' as const);
		return { auth, secret: await readSecret(passwordFile, user, host) };
	}
	const refreshToken =
		refreshTokenFile === undefined ? process.env.KOVREL_MAIL_REFRESH_TOKEN : readLine(refreshTokenFile);
	return {
		auth: 'token' as const,
		secret: passwordFile === undefined ? (process.env.KOVREL_MAIL_PASSWORD ?? '') : readLine(passwordFile),
		renewal: {
			endpoint,
			refreshToken: refreshToken ?? '',
			clientId,
			clientSecret: clientSecretFile === undefined ? undefined : readLine(clientSecretFile)
		}
	};
}

async function readSecret(file: string | undefined, user: string, host: string): Promise<string> {
	if (file !== undefined) return readLine(file);
	const given = process.env.KOVREL_MAIL_PASSWORD;
	if (given !== undefined && given !== '') return given;
	const typed = await askSecretly(`Password of ${user} on ${host}: `);
	if (typed === undefined) throw wrongWords('give the password in KOVREL_MAIL_PASSWORD or with --password-file');
	return typed;
}

interface FetchingOptions {
	first?: string;
	atMost?: string;
	connections?: string;
}

/* How mail is fetched, as far as it was said. */
function readFetching({ first, atMost, connections }: FetchingOptions): Partial<Fetching> {
	const bytesASecond = atMost === undefined ? undefined : atMost === 'none' ? null : readBytes(atMost);
	if (atMost !== undefined && bytesASecond === undefined)
		throw wrongWords('--at-most is a size like 500kB or 2MB, for each second, or none');
	return {
		...(first === undefined ? {} : { fetchFirst: oneOf('--first', FETCH_ORDERS, first) }),
		...(bytesASecond === undefined ? {} : { bytesASecond }),
		...(connections === undefined ? {} : { connections: readNumber('--connections', connections, 2) })
	};
}

command<
	FetchingOptions & {
		root?: string;
		host?: string;
		port?: string;
		user?: string;
		tls?: string;
		certificate?: string;
		token?: boolean;
		tokenEndpoint?: string;
		refreshTokenFile?: string;
		clientId?: string;
		clientSecretFile?: string;
		leaveOut?: string[];
		passwordFile?: string;
		write?: boolean;
	}
>(
	'connect <name>',
	'connect a mailbox with its mail server (IMAP): Kovrel only reads there, unless you allow writing',
	(c) =>
		c
			.option('--host <host>', 'the server')
			.option('--port <port>', 'its port; without it, the usual one')
			.option('--user <user>', 'who signs in there')
			.option('--tls <mode>', `encryption: ${TLS_MODES.join(', ')} (none on this machine alone)`, 'implicit')
			.option('--certificate <file>', 'a certificate of your own that is trusted for this server')
			.option('--token', 'the password is an OAuth 2 bearer token (RFC 7628)')
			.option('--token-endpoint <url>', 'where Kovrel gets the next token when one has ended (RFC 6749)')
			.option('--refresh-token-file <file>', 'the refresh token for it; without it, KOVREL_MAIL_REFRESH_TOKEN')
			.option('--client-id <id>', 'the client ID with which the refresh token was made')
			.option('--client-secret-file <file>', 'the secret of that client, where it has one')
			.option('--root <folder>', 'the folder there that is this mailbox, if the account sees several')
			.option('--first <mail>', `mail that is fetched first: ${FETCH_ORDERS.join(', ')}`)
			.option('--at-most <size>', 'fetch at most this much a second, such as 2MB')
			.option('--connections <number>', 'connections to the server: 2, or 1')
			.option('--leave-out <folder...>', 'folders there that are not followed, with those below them')
			.option('--password-file <file>', 'the password; without it, KOVREL_MAIL_PASSWORD, or it is asked for')
			.option('--write', 'carry out on the server what is decided here'),
	async (context, options, mailbox = '') => {
		if (options.host === undefined) throw wrongWords('name the server (--host)');
		if (options.user === undefined) throw wrongWords('name who signs in there (--user)');
		const done = await connectSource(context, {
			mailbox,
			host: options.host,
			tls: oneOf('--tls', TLS_MODES, options.tls ?? 'implicit'),
			port: options.port === undefined ? undefined : readNumber('--port', options.port, 65_535),
			certificate: options.certificate === undefined ? undefined : readFileSync(options.certificate, 'utf8'),
			user: options.user,
			...(await readCredentials(options, options.user, options.host)),
			root: options.root,
			fetching: readFetching(options),
			leftOut: options.leaveOut,
			writes: options.write
		});
		return {
			result: {
				mailbox: done.mailbox,
				folders: done.folders,
				messages: done.messages,
				extensions: done.extensions
			},
			lines: [
				...done.sentences,
				...done.extensions.map(({ means }) => `  ${means}`),
				`"kovrel sync --mailbox '${done.mailbox}'" fetches its mail; a running server does it by itself.`
			]
		};
	}
);

function passLines({ mailbox, folders, new: added, changed, gone, waiting, quota, errors }: PassDone): string[] {
	if (errors.length > 0 && folders === 0) return [`${mailbox}: ${errors.join(' ')}`];
	return [
		`${mailbox}: ${showCount(folders)} folders, ${showMessages(added)} new, ${showCount(changed)} changed, ${showCount(gone)} removed there.`,
		...(waiting > 0 ? [`  ${showMessages(waiting)} ${waiting === 1 ? 'waits' : 'wait'} for the server.`] : []),
		...(quota ? [`  The server counts ${showBytes(quota.used)} of ${showBytes(quota.limit)}.`] : []),
		...errors.map((error) => `  ${error}`)
	];
}

command<{ mailbox?: string; wait?: boolean }>(
	'sync',
	'bring live mailboxes up to date with their servers',
	(c) =>
		c
			.option('--mailbox <name>', 'mailbox; without it, all')
			.option('--wait', 'wait until it is done (the terminal always waits)'),
	async (context, { mailbox }) => {
		const { passes } = await followSources(context, { mailbox });
		return {
			result: mailbox === undefined ? passes : passes[0],
			lines: passes.length === 0 ? ['No mailbox is connected with a server.'] : passes.flatMap(passLines),
			ok: passes.every(({ errors, folders }) => errors.length === 0 || folders > 0)
		};
	}
);

command<{ mailbox: string; readOnly?: boolean; archiveOn?: string; earlier?: boolean }>(
	'write',
	'carry out decisions on the server of a live mailbox, or stop doing so',
	(c) =>
		c
			.requiredOption('--mailbox <name>', 'mailbox')
			.option('--read-only', 'only read it from now on')
			.option('--archive-on <place>', 'where archived mail goes: kovrel (that frees quota there) or server')
			.option(
				'--earlier',
				'also archive, delete and move there what you archived, deleted or moved here while the mailbox was read-only'
			),
	async (context, { mailbox, readOnly, archiveOn, earlier }) => {
		const done = await allowWriting(context, {
			mailbox,
			writes: !readOnly,
			archiveOn: archiveOn === undefined ? undefined : oneOf('--archive-on', ['kovrel', 'server'] as const, archiveOn),
			earlier
		});
		return {
			result: done,
			lines: [
				done.writes
					? `Kovrel carries out on the server what is decided in ${done.mailbox}.`
					: `Kovrel only reads the server of ${done.mailbox}.`,
				...(done.earlier > 0
					? [
							`  ${showMessages(done.earlier)} were archived, deleted or moved here earlier, and lie there as before: --earlier carries that out as well.`
						]
					: [])
			]
		};
	}
);

command<FetchingOptions & { mailbox: string }>(
	'fetching',
	'set in which order and how fast the mail of a live mailbox is fetched',
	(c) =>
		c
			.requiredOption('--mailbox <name>', 'mailbox')
			.option('--first <mail>', `mail that is fetched first: ${FETCH_ORDERS.join(', ')}`)
			.option('--at-most <size>', 'fetch at most this much a second, such as 2MB; none: as fast as it comes')
			.option('--connections <number>', 'connections to the server: 2, or 1 (it does not listen for new mail then)'),
	async (context, { mailbox, ...options }) => {
		const done = await setFetching(context, { mailbox, ...readFetching(options) });
		const pace =
			done.bytesASecond === null ? 'as fast as it comes' : `at most ${showBytes(done.bytesASecond)} a second`;
		return {
			result: done,
			lines: [
				`${done.mailbox} is fetched with the ${done.fetchFirst} mail first, ${pace}, over ${done.connections === 1 ? 'one connection' : 'two connections'}.`
			]
		};
	}
);

command<{ mailbox: string }>(
	'retry',
	'try again what the server of a live mailbox refused',
	(c) => c.requiredOption('--mailbox <name>', 'mailbox'),
	async (context, { mailbox }) => {
		const done = await retryRefused(context, { mailbox });
		return {
			result: done,
			lines: [`${showMessages(done.messages)} of ${done.mailbox} will be tried again with the next sync.`]
		};
	}
);

command(
	'connected',
	'list the live mailboxes',
	(c) => c,
	async (context) => {
		const found = await listSources(context);
		return {
			result: found.map(
				({
					id,
					mailbox,
					host,
					port,
					user,
					writes,
					archiveOn,
					root,
					messages,
					ahead,
					waiting,
					passedAt,
					error,
					quotaUsed,
					quotaLimit
				}) => ({
					...{
						id,
						mailbox,
						host,
						port,
						user,
						writes: writes === 1,
						archiveOn,
						root,
						messages,
						ahead,
						waiting,
						passedAt,
						error,
						quotaUsed,
						quotaLimit
					}
				})
			),
			lines:
				found.length === 0
					? ['No mailbox is connected with a server.']
					: found.map(
							({ mailbox, user, host, messages, ahead, passedAt, error }) =>
								`${mailbox}: ${user} on ${host}, ${showMessages(messages)}${ahead.messages > 0 ? `, ${showCount(ahead.messages)} to come` : ''}, ${error ?? (passedAt ? `up to date at ${passedAt}` : 'not fetched yet')}`
						)
		};
	}
);

command(
	'disconnect <name>',
	'end following a mailbox on its server; its mail stays here',
	(c) => c.option('--unfinished', 'also while mail is on the server alone, or waits for the server'),
	async (context, { unfinished }: { unfinished?: boolean }, mailbox = '') => {
		const done = await disconnectSource(context, { mailbox, unfinished });
		return {
			result: { mailbox: done.mailbox },
			lines: [done.sentence]
		};
	}
);
