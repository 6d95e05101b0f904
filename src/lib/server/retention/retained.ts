import type { CalendarDate } from '../../../core/calendar.ts';
import type { ClassWord } from '../../../core/retention/classes.ts';
import type { Governed, Source } from '../../../core/retention/folders.ts';
import {
	type Coming,
	folderSentence,
	type NextDue,
	sourceWords,
	termsWords
} from '../../../core/retention/sentences.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import { showCount } from '../../../core/weigh/units.ts';
import {
	activePauses,
	comingDue,
	governed,
	isBeingApplied,
	listRetentions,
	namedRetentions,
	pausedOn,
	retainedFolders,
	type Retention,
	retentionDefaults
} from '../standing/index.ts';
import { requireMailboxId, weightByFolder } from '../mail/index.ts';
import { type Context, defineUseCase, id, today } from '../context/index.ts';
import type { TriedRetention } from './retain.ts';
import Joi from 'joi';

/** A folder with its retention. */
interface RetainedFolderView extends Weight {
	id: number;
	path: string;
	name: string;
	depth: number;
	role: string | null;
	/** In one sentence. */
	sentence: string;
	/** Its retention: code of the series, or the plain period; empty if there is none. */
	label: string;
	source: string;
	isOwn: boolean;
	class: ClassWord;
	ownClass: ClassWord | null;
	closedOn: CalendarDate | null;
	/** What falls due first. */
	next: NextDue | undefined;
	/** All upcoming dispositions, and mail that stays. */
	coming: Coming;
}

/** The retention of a mailbox. */
export interface RetainedMailbox {
	mailboxId: number;
	mailbox: string;
	folders: RetainedFolderView[];
	/** Its default, in words; undefined: none. */
	default: string | undefined;
	isBeingApplied: boolean;
}

const labelOf = (retention: Retention | undefined) =>
	retention ? (retention.series ? retention.series.code : termsWords(retention.terms)) : '';

/** The retention of each folder of a mailbox. @throws Refusal */
export async function listRetained(context: Context, input: { mailboxId: number }): Promise<RetainedMailbox> {
	const { db } = context;
	const mailbox = await requireMailboxId(context, input.mailboxId);
	const retentions = await listRetentions(db);
	const holds = await governed(db, mailbox.id);
	const weights = await weightByFolder(db, { mailboxIds: [mailbox.id], states: 'live' });
	const on = today(context);
	const coming = await comingDue(db, mailbox.id, on, await pausedOn(db, mailbox.id, on));
	const pauses = await activePauses(db, mailbox.id, on);
	// binned mail follows the bin's days
	const folders = (await retainedFolders(db, mailbox.id)).filter(({ isShown, role }) => isShown && role !== 'trash');
	const defaults = await retentionDefaults(db, mailbox.id);
	const ofDefault = defaults.retentionId === undefined ? undefined : retentions.get(defaults.retentionId);
	return {
		mailboxId: mailbox.id,
		mailbox: mailbox.name,
		default:
			ofDefault && `${termsWords(ofDefault.terms)}${ofDefault.series ? ` (series ${ofDefault.series.code})` : ''}`,
		isBeingApplied: await isBeingApplied(context, mailbox.id),
		folders: folders
			.map((folder): RetainedFolderView => {
				const of = holds.get(folder.id) as Governed;
				const retention = of.retentionId === undefined ? undefined : retentions.get(of.retentionId);
				const due: Coming = {
					...(coming.get(folder.id) ?? { actions: [], held: { messages: 0, holds: [] }, kept: 0, paused: 0 }),
					// of several, the one with the latest end
					pause: pauses.findLast(
						({ folder: top }) => top !== null && (folder.path === top || folder.path.startsWith(`${top}/`))
					)
				};
				const { messages = 0, bytes = 0 } = weights.get(folder.id) ?? {};
				return {
					id: folder.id,
					path: folder.path,
					name: folder.name,
					depth: folder.path.split('/').length - 1,
					role: folder.role,
					messages,
					bytes,
					sentence: folderSentence(of, retention?.terms, {
						code: retention?.series?.code,
						coming: due,
						today: on,
						isOff: mailbox.retains === 'off'
					}),
					label: labelOf(retention),
					source: of.source ? sourceWords(of.source) : '',
					isOwn: isOwn(of.source),
					class: of.class,
					ownClass: folder.class,
					closedOn: folder.closedOn,
					next: due.actions[0],
					coming: due
				};
			})
			.sort((a, b) => (a.path < b.path ? -1 : 1))
	};
}

const isOwn = (source: Source | undefined) => source?.kind === 'own';

/** The retention for a folder name, in words. */
export async function listNamed({
	db
}: Context): Promise<{ name: string; label: string; isSeries: boolean; class: ClassWord | null }[]> {
	const retentions = await listRetentions(db);
	return (await namedRetentions(db)).map(({ name, retentionId, class: of }) => ({
		name,
		label: labelOf(retentionId === null ? undefined : retentions.get(retentionId)),
		isSeries: retentionId !== null && retentions.get(retentionId)?.series !== undefined,
		class: of
	}));
}

/** The effect of a change, in words: "3,211 messages would become due at once." */
export function triedWords({
	mailboxes,
	overrides
}: Pick<TriedRetention, 'mailboxes'> & { overrides?: string[] }): string[] {
	const said = mailboxes.flatMap(({ mailbox, dueAtOnce, noLonger, messages }) => [
		...dueAtOnce.map(
			({ action, messages: now }) =>
				`${mailbox}: ${showCount(now)} ${now === 1 ? 'message' : 'messages'} would become due at once, to be ${
					action === 'review' ? 'reviewed' : action === 'archive' ? 'archived' : 'destroyed'
				}.`
		),
		...(noLonger > 0
			? [`${mailbox}: ${showCount(noLonger)} ${noLonger === 1 ? 'message' : 'messages'} would no longer be due.`]
			: []),
		`${mailbox}: the due date of ${showCount(messages)} ${messages === 1 ? 'message' : 'messages'} would change.`
	]);
	const over = (overrides ?? []).map((words) => `Replaces what was set: ${words}.`);
	return said.length + over.length > 0 ? [...said, ...over] : ['No due date would change.'];
}

/** The use cases of this file. */
export const retainedUseCases = [
	defineUseCase({
		name: 'listNamed',
		thread: 'reader',
		right: 'administrator',
		run: listNamed
	}),
	defineUseCase({
		name: 'listRetained',
		input: () => Joi.object({ mailboxId: id.required() }).required(),
		thread: 'reader',
		right: 'administrator',
		run: listRetained
	})
] as const;
