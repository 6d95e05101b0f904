import type { ImapFlow, ListResponse } from 'imapflow';
import Joi from 'joi';
import { administratorNamed } from '../../../core/access/roles.ts';
import { isManyGone } from '../../../core/sources/server.ts';
import { showCount, showMessages } from '../../../core/weigh/units.ts';
import { actingAs, type Context, defineJob, defineUseCase, text } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import { carryOutAtOnce, type Decided, prepareDocket } from '../docket/index.ts';
import { requireMailboxId, setQuota } from '../mail/index.ts';
import { Refusal } from '../refusal.ts';
import { bringIn, leaveTooLarge } from './bring-in.ts';
import { carryFolders } from './carry-folders.ts';
import { carryOver } from './carry-over.ts';
import { accountOf, withSource } from './connect.ts';
import { clearGone, followedFolders, goneForGood, putFollowedFolder } from './follow-store.ts';
import { ServerTrouble, withServer } from './imap.ts';
import {
	followable,
	type Following,
	hasSameMail,
	isAsBefore,
	lookAtFolders,
	lookThrough,
	pathsOn,
	STATUS,
	statusOf
} from './look-through.ts';
import { readHeaders } from './read-headers.ts';
import { countWaiting, hasToCarry } from './outbox-store.ts';
import { isConnected, requireConnected, requireSource } from './require-source.ts';
import { followedWeights, listStoredSources, putPass, type Source, sourceOf } from './sources-store.ts';

/** What a pass over a live mailbox found. */
export interface PassDone {
	mailbox: string;
	/** Folders on the server that are followed. */
	folders: number;
	new: number;
	/** Messages whose marks or folder were changed by others. */
	changed: number;
	/** Messages that are on the server no more; they went to the bin here. */
	gone: number;
	/** Messages that the server has still to show as they are here. */
	waiting: number;
	quota: { used: number; limit: number } | undefined;
	errors: string[];
}

/* Why a person looks first at what a server lacks: the decision proposed, and what the docket and its report say. */
const ASKING = {
	restored: {
		decision: 'archive',
		docket: (host: string) => `Not on ${host} since the backup`,
		why: ' Kovrel may have archived from there after the restored backup was made.'
	},
	first: {
		decision: 'delete',
		docket: (host: string) => `Not on ${host}`,
		why: ' It is the first comparison with this server since it was connected or replaced.'
	},
	many: { decision: 'delete', docket: (host: string) => `Removed on ${host}`, why: '' }
} as const;

/*
 * What a whole pass found nowhere was removed by somebody there: it goes to the bin here, with its days. A docket is only
 * drafted, and waits for a person, where that is a large share of the mailbox, at the first pass after connecting, and
 * after a backup was restored: Kovrel itself may have removed it there since, when it was archived here.
 */
async function settleGone(
	context: Context,
	{ source, mailbox }: Pick<Following, 'source' | 'mailbox'>
): Promise<{ gone: number; errors: string[] }> {
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const ids = await goneForGood(db, source.id);
		await clearGone(db, source.id);
		if (ids.length === 0) return { gone: 0, errors: [] };
		const followed = ids.length + ((await followedWeights(db)).get(source.id)?.messages ?? 0);
		const asking =
			source.isRestored === 1
				? ASKING.restored
				: source.passedAt === null
					? ASKING.first
					: isManyGone({ gone: ids.length, followed })
						? ASKING.many
						: undefined;
		const isKnown = asking === undefined || asking === ASKING.many;
		const line = (decision: 'archive' | 'delete'): Decided => ({
			decision,
			options: {},
			scope: {
				kind: 'items',
				ids,
				label: `${isKnown ? 'removed' : 'no longer'} on ${source.host}`,
				// a server with a passing fault shows them again before a person looks
				missingOnServer: true
			}
		});
		if (!asking) {
			const { messages } = await carryOutAtOnce(within, mailbox, [line('delete')]);
			return { gone: messages, errors: [] };
		}
		const { id } = await prepareDocket(within, {
			mailboxId: mailbox.id,
			name: asking.docket(source.host),
			byItself: true,
			lines: [line(asking.decision)]
		});
		const [are, they, stay] = ids.length === 1 ? ['is', 'It', 'stays'] : ['are', 'They', 'stay'];
		return {
			gone: 0,
			errors: [
				`${showMessages(ids.length)} of ${showCount(followed)} ${are} not on ${source.host} any more.${asking.why} ${they} ${stay} here: docket ${id}, to ${asking.decision} ${ids.length === 1 ? 'it' : 'them'}, waits for you to look at it.`
			]
		};
	});
}

async function quotaOf(client: ImapFlow, inbox: string): Promise<PassDone['quota']> {
	if (!client.capabilities.has('QUOTA')) return undefined;
	const quota = await client.getQuota(inbox).catch(() => false as const);
	const storage = quota === false ? undefined : quota.storage;
	if (storage?.limit === undefined) return undefined;
	return { used: storage.usage ?? 0, limit: storage.limit };
}

const nothingDone = (mailbox: string): PassDone => ({
	...{ mailbox, folders: 0, new: 0, changed: 0, gone: 0, waiting: 0, quota: undefined },
	errors: []
});

/* One look at a server: folders, numbers, marks, then the bytes of what is new. */
async function look(
	context: Context,
	following: Following,
	listed: readonly ListResponse[],
	done: PassDone
): Promise<void> {
	const folders = await lookAtFolders(context, following, listed);
	done.folders = folders.length;
	const touched = folders.filter(({ followed, now }) => !isAsBefore(followed, now));
	for (const folder of touched) {
		if (context.signal.aborted) return;
		const { changed, errors } = await lookThrough(context, following, folder);
		done.changed += changed;
		done.errors.push(...errors);
	}
	await readHeaders(context, following, touched);
	if (context.signal.aborted) return;
	done.errors.push(...(await leaveTooLarge(context, following, touched)));
	const { added, moved, errors } = await bringIn(context, following, touched);
	done.new += added;
	done.changed += moved;
	done.errors.push(...errors);
	if (context.signal.aborted) return;
	await inTransaction(context.db, async (db) => {
		await requireConnected({ ...context, db }, following.source);
		for (const { followed, now } of touched) await putFollowedFolder(db, { id: followed.id, ...now });
	});
	const settled = await settleGone(context, following);
	done.gone += settled.gone;
	done.errors.push(...settled.errors);
}

/* A server that says little is looked at again after something was carried to it; each time brings some news of all. */
const MOST_LOOKS = 4;

/*
 * One pass over a live mailbox: what others did on the server is taken over first, so that what was decided here meets
 * it as it is now; then that is carried there.
 */
async function passOver(context: Context, begun: Source): Promise<PassDone> {
	let source = begun;
	const mailbox = await requireMailboxId(context, source.mailboxId);
	const within: Context = {
		...actingAs(context, administratorNamed(`Following ${source.host}`)),
		// what a pass decides itself needs no pass of its own
		follow: async (db, next) => {
			if (next.useCase !== 'followSources') await context.follow(db, next);
		}
	};
	const done = nothingDone(mailbox.name);
	await withSource(context, source, async (client) => {
		const list = () => client.list({ statusQuery: STATUS });
		let inbox = '';
		for (let looks = 1; looks <= MOST_LOOKS; looks++) {
			let listed = await list();
			const known = await followedFolders(context.db, source.id);
			const following = { client, source, mailbox, paths: pathsOn(client, listed, source, known) };
			inbox = following.paths.inbox;
			if (source.writes) {
				const { isChanged, errors } = await carryFolders(within, following, listed);
				done.errors.push(...errors);
				if (isChanged) listed = await list();
			}
			await look(within, following, listed, done);
			if (!source.writes || context.signal.aborted) break;
			const { unsure, errors } = await carryOver(within, following);
			done.errors.push(...errors);
			if (unsure === 0) break;
			// it may have turned out to be another server under the same name, which was not passed before
			source = { ...source, passedAt: (await sourceOf(context.db, mailbox.id))?.passedAt ?? null };
		}
		if (!context.signal.aborted) done.quota = await quotaOf(client, inbox);
	});
	return done;
}

/** Follows one live mailbox; a server that does not answer is said, and its mail stays as it was. */
async function follow(context: Context, source: Source): Promise<PassDone> {
	const note = (error: string | null, quota?: PassDone['quota']) =>
		inTransaction(context.db, (db) => putPass(db, source.id, { at: context.now(), error, quota }));
	try {
		const done = await passOver(context, source);
		done.waiting = await countWaiting(context.db, source.id);
		if (context.signal.aborted) return done;
		const { quotaBytes } = await requireMailboxId(context, source.mailboxId);
		// of a mailbox without a quota, the first look takes over the server's
		if (source.passedAt === null && done.quota && quotaBytes === undefined)
			await setQuota(context, { mailbox: source.mailboxId, bytes: done.quota.limit });
		await note(null, done.quota);
		return done;
	} catch (error) {
		if (!(error instanceof ServerTrouble) && !(error instanceof Refusal)) throw error;
		// a stop closes the line, which is no trouble of the server; that of a former server is not its successor's
		if (!context.signal.aborted && (await isConnected(context, source))) await note(error.message);
		const { name } = await requireMailboxId(context, source.mailboxId);
		return { ...nothingDone(name), waiting: await countWaiting(context.db, source.id), errors: [error.message] };
	}
}

/**
 * Brings live mailboxes up to date with their servers; on those where that is allowed, what was decided here is carried
 * out there as well.
 *
 * @throws Refusal where a mailbox is named that is not live
 */
export async function followSources(
	context: Context,
	input: { mailbox?: string | undefined }
): Promise<{ passes: PassDone[] }> {
	const meant: Source[] = [];
	if (input.mailbox === undefined) meant.push(...(await listStoredSources(context.db)));
	else meant.push((await requireSource(context, input.mailbox)).source);
	const passes: PassDone[] = [];
	for (const source of meant) {
		if (context.signal.aborted) break;
		passes.push(await follow(context, source));
	}
	return { passes };
}

/* A pass that did not come through is tried again no sooner than that. */
const AGAIN_AFTER_MS = 15 * 60_000;

async function hasNews(context: Context, source: Source): Promise<boolean> {
	// what waits for a server is carried there as soon as it is back
	const carries = source.writes === 1 && (await hasToCarry(context.db, source.id));
	if (source.error !== null && !carries) {
		const tried = source.triedAt === null ? 0 : Date.parse(source.triedAt);
		if (context.now().getTime() - tried < AGAIN_AFTER_MS) return false;
	}
	try {
		const followed = await followedFolders(context.db, source.id);
		const known = new Map(followed.map((folder) => [folder.path, folder]));
		const account = await accountOf(context, source);
		if (!account) return true;
		const { listed, paths } = await withServer(account, context.signal, async (client) => {
			const listed = await client.list({ statusQuery: STATUS });
			return { listed, paths: pathsOn(client, listed, source, followed) };
		});
		// a folder that gives no status is not followed
		const folders = followable(listed, { source, paths }).flatMap((entry) => {
			const now = statusOf(entry);
			return now ? [{ before: known.get(entry.path), now }] : [];
		});
		if (source.error !== null || known.size !== folders.length) return true;
		if (carries) return true;
		// marks without change numbers can only be compared by a whole pass, which is not made every minute
		const passed = source.passedAt === null ? 0 : Date.parse(source.passedAt);
		const isDue = context.now().getTime() - passed >= AGAIN_AFTER_MS;
		return folders.some(
			({ before, now }) => !before || !(isAsBefore(before, now) || (!isDue && hasSameMail(before, now)))
		);
	} catch (error) {
		if (!(error instanceof ServerTrouble) && !(error instanceof Refusal)) throw error;
		// said once, by the pass itself
		return source.error === null;
	}
}

/** Whether a server has something that is not here yet, or has just ceased to answer. */
async function serversHaveNews(context: Context): Promise<boolean> {
	for (const source of await listStoredSources(context.db)) if (await hasNews(context, source)) return true;
	return false;
}

/** The use cases of this file. */
export const followUseCases = [
	defineJob(
		{
			name: 'followSources',
			input: () => Joi.object({ mailbox: text }).required(),
			thread: 'writer',
			right: 'administrator',
			run: followSources
		},
		{ lane: 'import', about: (_context, { mailbox }) => ({ kind: 'live mailboxes', mailbox }) }
	),
	defineUseCase({ name: 'serversHaveNews', thread: 'opener', right: 'administrator', run: serversHaveNews })
] as const;
