import { type CalendarDate, readDate, showDate } from '../../../core/calendar.ts';
import {
	type ClassFields,
	type ClassWord,
	classWord,
	type RecordClass,
	UNCLASSED,
	wrongClass
} from '../../../core/retention/classes.ts';
import type { NamedRetention } from '../../../core/retention/folders.ts';
import { termsWords } from '../../../core/retention/sentences.ts';
import { readTerms, type Terms, termsText, wrongTerms } from '../../../core/retention/terms.ts';
import { nameKey } from '../../../core/weigh/roles.ts';
import { type Db, inSnapshot, inTransaction } from '../database/index.ts';
import { Refusal } from '../refusal.ts';
import {
	applySmall,
	type DueChange,
	ensurePeriod,
	findSeries,
	type FolderRetention,
	governed,
	isBeingApplied,
	listRetentions,
	namedRetentions,
	noteSettings,
	overQuotaUnderSettings,
	listClasses,
	putClass,
	putDefaultRetention,
	putFolderRetention,
	putNamedRetention,
	retainedFolders,
	type Retention,
	retentionOfSeries,
	tryDue,
	type WhatIf
} from '../standing/index.ts';
import { foldersById, listMailboxes, requireMailboxId } from '../mail/index.ts';
import { appendLedger } from '../ledger/index.ts';
import { type Context, defineUseCase, id, recordClass, text, today } from '../context/index.ts';
import Joi from 'joi';

const refuse = (message: string) => new Refusal('bad-input', `${message} Nothing was changed.`);

/** A setting: a series by its code, a plain period by its terms, or none. */
export type RetentionGiven = { series: string } | { terms: string } | 'none';

/** A change of retention settings. */
export type RetentionSetting =
	/** For folders, of any mailbox. Undefined: unchanged; null: removed. */
	| {
			kind: 'folders';
			folderIds: number[];
			retention?: RetentionGiven | undefined;
			class?: ClassWord | null | undefined;
			closedOn?: CalendarDate | null | undefined;
	  }
	/** For a mailbox's other folders. */
	| { kind: 'default'; mailboxId: number; retention: RetentionGiven }
	/** For all folders of a name, in all mailboxes. */
	| { kind: 'named'; name: string; retention?: RetentionGiven | undefined; class?: ClassWord | null | undefined }
	/** For a class: its period, for mail in folders without one, and its fields. Null: a new class. */
	| {
			kind: 'class';
			class: ClassWord | null;
			fields?: ClassFields | undefined;
			retention?: RetentionGiven | undefined;
	  }
	/** Resets all folders of a mailbox to its default. */
	| { kind: 'reset'; mailboxId: number };

/* For a preview, a plain period that is not stored yet gets a temporary number. */
const TRIED = -1;

interface Meant {
	retentionId: number | null | undefined;
	words: string;
	terms: Map<number, Terms>;
}

async function tried(
	{ db }: Context,
	terms: Terms,
	words: string,
	isIt: (known: Retention) => boolean
): Promise<Meant> {
	const known = [...(await listRetentions(db)).values()].find(isIt);
	return { retentionId: known?.id ?? TRIED, words, terms: new Map(known ? [] : [[TRIED, terms]]) };
}

function readGiven(text: string): Terms {
	try {
		return readTerms(text);
	} catch (cause) {
		throw new Refusal('bad-input', 'That is no period. Nothing was changed.', { cause });
	}
}

/* The setting behind the input; stored, or only for a preview. */
async function meant(context: Context, given: RetentionGiven | undefined, isTried: boolean): Promise<Meant> {
	const none = new Map<number, Terms>();
	if (given === undefined) return { retentionId: undefined, words: '', terms: none };
	if (given === 'none') return { retentionId: null, words: 'nothing of its own', terms: none };
	if ('series' in given) {
		const series = await findSeries(context.db, given.series);
		if (!series || series.removedAt !== null) throw refuse(`There is no series ${given.series}.`);
		const words = `series ${series.code}: ${termsWords(series.terms)}`;
		if (isTried) return tried(context, series.terms, words, ({ series: of }) => of?.id === series.id);
		return { retentionId: await retentionOfSeries(context.db, series.id), words, terms: none };
	}
	const terms = readGiven(given.terms);
	const wrong = wrongTerms(terms);
	if (wrong) throw refuse(`${wrong}.`);
	const words = termsWords(terms);
	const text = termsText(terms);
	if (isTried)
		return tried(context, terms, words, (known) => known.series === undefined && termsText(known.terms) === text);
	return { retentionId: await ensurePeriod(context.db, terms), words, terms: none };
}

/** The effect of a change, before it is made. */
export interface TriedRetention {
	/** By mailbox, if any due date changes. */
	mailboxes: (DueChange & { mailbox: string })[];
	/** Settings of single folders that would be removed, in words. */
	overrides: string[];
	/** Whether it changes the retention of records, and so needs a reason. */
	needsReason: boolean;
	/** Warnings for mailboxes in which a class would exceed its quota. */
	overQuota: string[];
}

interface Planned {
	mailboxIds: number[] | 'all';
	whatIf: (mailboxId: number) => WhatIf;
	overrides: string[];
	put: (within: Context) => Promise<void>;
	details: Record<string, unknown>;
	/** Whether it makes records of mail that was none, or the other way round. */
	changesProtection?: boolean;
}

async function planFolders(
	context: Context,
	wish: Extract<RetentionSetting, { kind: 'folders' }>,
	isTried: boolean
): Promise<Planned> {
	const { db } = context;
	const folders = await foldersById(db, wish.folderIds);
	if (folders.length === 0) throw refuse('No folder is selected.');
	if (wish.closedOn && readDate(wish.closedOn) === undefined) throw refuse(`"${wish.closedOn}" is no date.`);
	const { retentionId, words, terms } = await meant(context, wish.retention, isTried);
	const set: FolderRetention = {
		...(retentionId !== undefined && { retentionId }),
		...(wish.class !== undefined && { class: wish.class }),
		...(wish.closedOn !== undefined && { closedOn: wish.closedOn })
	};
	const ids = folders.map(({ id }) => id);
	const mailboxIds = [...new Set(folders.map(({ mailboxId }) => mailboxId))];
	return {
		mailboxIds,
		whatIf: () => ({ folders: new Map(ids.map((id) => [id, set])), terms }),
		overrides: [],
		put: (within) => putFolderRetention(within.db, ids, set),
		details: {
			folders: folders.map(({ mailbox, path }) => `${mailbox}: ${path}`),
			...(words ? { retention: words } : {}),
			...(wish.class !== undefined ? { class: await namedClass(context, wish.class) } : {}),
			...(wish.closedOn !== undefined ? { closed: wish.closedOn ? showDate(wish.closedOn) : 'open again' } : {})
		}
	};
}

/* Undefined if the folder has none of its own. */
function ownWords(
	folder: { retentionId: number | null; class: ClassWord | null; path: string },
	retentions: Map<number, Retention>,
	classes: readonly RecordClass[]
): string | undefined {
	if (folder.retentionId === null && folder.class === null) return undefined;
	const own = folder.retentionId === null ? undefined : retentions.get(folder.retentionId);
	const said = own ? (own.series ? `series ${own.series.code}` : termsWords(own.terms)) : '';
	const ofClass = classes.find(({ word }) => word === folder.class)?.name ?? '';
	return `${folder.path}: ${[said, ofClass].filter(Boolean).join(', ')}`;
}

/* The name of a class that is set. */
async function namedClass({ db }: Context, word: ClassWord | null): Promise<string> {
	if (word === null) return 'as inherited';
	const of = (await listClasses(db)).find((one) => one.word === word);
	if (!of) throw refuse(`There is no class “${word}”.`);
	return of.name;
}

async function planReset(context: Context, mailboxId: number): Promise<Planned> {
	const mailbox = await requireMailboxId(context, mailboxId);
	const retentions = await listRetentions(context.db);
	const classes = await listClasses(context.db);
	const set = (await retainedFolders(context.db, mailboxId)).flatMap((folder) => {
		const words = ownWords(folder, retentions, classes);
		return words === undefined ? [] : [{ id: folder.id, words }];
	});
	const nothing: FolderRetention = { retentionId: null, class: null };
	const ids = set.map(({ id }) => id);
	return {
		mailboxIds: [mailboxId],
		whatIf: () => ({ folders: new Map(ids.map((id) => [id, nothing])) }),
		overrides: set.map(({ words }) => words),
		put: (within) => putFolderRetention(within.db, ids, nothing),
		details: { mailbox: mailbox.name, folders: 'all back under the default', overrides: set.map(({ words }) => words) }
	};
}

async function planNamed(
	context: Context,
	wish: Extract<RetentionSetting, { kind: 'named' }>,
	isTried: boolean
): Promise<Planned> {
	if (nameKey(wish.name) === '') throw refuse('Say how the folders are called.');
	const { retentionId, words, terms } = await meant(context, wish.retention, isTried);
	const all = await namedRetentions(context.db);
	const before = all.find(({ name }) => nameKey(name) === nameKey(wish.name));
	const next: NamedRetention = {
		name: wish.name.trim(),
		retentionId: retentionId === undefined ? (before?.retentionId ?? null) : retentionId,
		class: wish.class === undefined ? (before?.class ?? null) : wish.class
	};
	return {
		mailboxIds: 'all',
		whatIf: () => ({ named: [...all.filter((one) => one !== before), next], terms }),
		overrides: [],
		put: (within) => putNamedRetention(within.db, next),
		details: {
			named: next.name,
			...(words ? { retention: words } : {}),
			...(next.class ? { class: await namedClass(context, next.class) } : {})
		}
	};
}

async function planClass(
	context: Context,
	wish: Extract<RetentionSetting, { kind: 'class' }>,
	isTried: boolean
): Promise<Planned> {
	const all = await listClasses(context.db);
	const before = wish.class === null ? undefined : all.find(({ word }) => word === wish.class);
	if (wish.class !== null && !before) throw refuse(`There is no class “${wish.class}”.`);
	const fields = wish.fields ?? before;
	if (!fields) throw refuse('A class needs a name.');
	const others = all.filter((one) => one !== before);
	const word = before?.word ?? freeWord(fields.name, all);
	const wrong = wrongClass(fields, others, word === UNCLASSED);
	if (wrong) throw refuse(`${wrong}.`);
	if (fields.isProtected && wish.retention !== undefined && wish.retention !== 'none' && 'terms' in wish.retention)
		throw refuse('A class that is protected as records takes its period from a series.');
	const { retentionId = before?.retentionId ?? null, words, terms } = await meant(context, wish.retention, isTried);
	// a class that is new has no number yet, and nothing in it
	const next: RecordClass = { ...fields, id: before?.id ?? 0, word, retentionId };
	return {
		mailboxIds: 'all',
		whatIf: () => ({ classes: before ? all.map((one) => (one === before ? next : one)) : all, terms }),
		overrides: [],
		put: (within) => putClass(within.db, word, next),
		details: {
			class: fields.name.trim(),
			...(words ? { retention: words } : {}),
			...(wish.fields && {
				letter: fields.letter,
				protected: fields.isProtected,
				quotaBytes: fields.quotaBytes ?? null,
				...(before && before.name !== fields.name.trim() ? { before: before.name } : {})
			})
		},
		changesProtection: before !== undefined && before.isProtected !== fields.isProtected
	};
}

/* A word that no class of today has: one that was removed is in use again under its own. */
function freeWord(name: string, all: readonly RecordClass[]): ClassWord {
	const word = classWord(name);
	const taken = new Set(all.map((of) => of.word));
	for (let n = 1; ; n++) {
		const tried = n === 1 ? word : `${word}-${n}`;
		if (!taken.has(tried)) return tried;
	}
}

async function plan(context: Context, wish: RetentionSetting, isTried: boolean): Promise<Planned> {
	switch (wish.kind) {
		case 'folders':
			return planFolders(context, wish, isTried);
		case 'reset':
			return planReset(context, wish.mailboxId);
		case 'named':
			return planNamed(context, wish, isTried);
		case 'default': {
			const mailbox = await requireMailboxId(context, wish.mailboxId);
			const { retentionId = null, words, terms } = await meant(context, wish.retention, isTried);
			return {
				mailboxIds: [mailbox.id],
				whatIf: () => ({ defaultId: retentionId, terms }),
				overrides: [],
				put: (within) => putDefaultRetention(within.db, mailbox.id, retentionId),
				details: { mailbox: mailbox.name, default: words }
			};
		}
		case 'class':
			return planClass(context, wish, isTried);
	}
}

/*
 * Whether a change puts records under another retention, or makes them no records, in any folder and in any way. A
 * first series for records is no such change.
 */
async function changesRecords(db: Db, mailboxIds: readonly number[], whatIf: Planned['whatIf']): Promise<boolean> {
	for (const mailboxId of mailboxIds) {
		const then = await governed(db, mailboxId, whatIf(mailboxId));
		for (const [folderId, now] of await governed(db, mailboxId)) {
			const next = then.get(folderId);
			if (!now.isRecord) continue;
			if (!next?.isRecord) return true;
			if (now.retentionId !== undefined && next.retentionId !== now.retentionId) return true;
		}
	}
	return false;
}

/** The effect of a change of retention, before it is made. @throws Refusal */
export async function tryRetention(context: Context, wish: RetentionSetting): Promise<TriedRetention> {
	// the temporary tables belong to this connection
	return inSnapshot(context.db, async (db) => {
		const within = { ...context, db };
		const { mailboxIds, whatIf, overrides, changesProtection = false } = await plan(within, wish, true);
		const meant = (await listMailboxes(db)).filter(({ id }) => mailboxIds === 'all' || mailboxIds.includes(id));
		const needsReason =
			changesProtection ||
			(await changesRecords(
				db,
				meant.map(({ id }) => id),
				whatIf
			));
		const mailboxes: TriedRetention['mailboxes'] = [];
		const overQuota: string[] = [];
		for (const mailbox of meant) {
			const change = await tryDue(db, mailbox.id, whatIf(mailbox.id), today(context));
			if (change.messages > 0) mailboxes.push({ mailbox: mailbox.name, ...change });
			overQuota.push(...(await overQuotaUnderSettings(db, mailbox, whatIf(mailbox.id))));
		}
		return { mailboxes, overrides, needsReason, overQuota };
	});
}

/**
 * Changes the retention of folders, a mailbox, a name or a class. It archives and destroys nothing; due dates change.
 *
 * @returns whether a job is still applying it to the mail, and warnings on classes over their quota: a class says what
 *   mail is, so the quota is no reason to refuse it
 * @throws Refusal
 */
export async function setRetention(
	context: Context,
	input: { wish: RetentionSetting; because?: string | undefined }
): Promise<{ isBeingApplied: boolean; overQuota: string[] }> {
	const because = input.because?.trim() ?? '';
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const planned = await plan(within, input.wish, false);
		const { mailboxIds, whatIf, put, details, changesProtection = false } = planned;
		const ids = mailboxIds === 'all' ? (await listMailboxes(db)).map(({ id }) => id) : mailboxIds;
		if (because === '' && (changesProtection || (await changesRecords(db, ids, whatIf))))
			throw refuse('These are records: say why they are put under something else. The reason stays in the ledger.');
		const overQuota: string[] = [];
		for (const mailbox of await listMailboxes(db))
			if (ids.includes(mailbox.id)) overQuota.push(...(await overQuotaUnderSettings(db, mailbox, whatIf(mailbox.id))));
		await put(within);
		for (const id of ids) await noteSettings(db, id);
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'retention-set',
			details: { ...details, ...(because ? { because } : {}) }
		});
		await applySmall(within);
		return { isBeingApplied: await isBeingApplied(within), overQuota };
	});
}

const terms = Joi.string()
	.max(100)
	.custom((said: string) => {
		readTerms(said);
		return said;
	});
const given = Joi.alternatives<RetentionGiven>(
	Joi.object({ series: Joi.string().max(40).required() }),
	Joi.object({ terms: terms.required() }),
	Joi.valid('none')
);

const retentionWish = Joi.alternatives<RetentionSetting>(
	Joi.object({
		kind: Joi.valid('folders').required(),
		folderIds: Joi.array().items(id).min(1).max(10_000).required(),
		retention: given,
		class: recordClass.allow(null),
		closedOn: Joi.string().max(10).allow(null)
	}),
	Joi.object({ kind: Joi.valid('default').required(), mailboxId: id.required(), retention: given.required() }),
	Joi.object({
		kind: Joi.valid('named').required(),
		name: Joi.string().max(200).required(),
		retention: given,
		class: recordClass.allow(null)
	}),
	Joi.object({
		kind: Joi.valid('class').required(),
		class: recordClass.allow(null).required(),
		fields: Joi.object({
			name: Joi.string().max(200).required(),
			letter: Joi.string().max(10).required(),
			isProtected: Joi.boolean().required(),
			quotaBytes: Joi.number().integer()
		}),
		retention: given
	}),
	Joi.object({ kind: Joi.valid('reset').required(), mailboxId: id.required() })
);

/** The use cases of this file. */
export const retainUseCases = [
	defineUseCase({
		name: 'tryRetention',
		input: () => retentionWish.required(),
		thread: 'heavy',
		right: 'administrator',
		run: tryRetention
	}),
	defineUseCase({
		name: 'setRetention',
		input: () => Joi.object({ wish: retentionWish.required(), because: text }).required(),
		thread: 'writer',
		right: 'administrator',
		run: setRetention
	})
] as const;
