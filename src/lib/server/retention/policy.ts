import { MONTH_NAMES } from '../../../core/calendar.ts';
import { type RecordClass, UNCLASSED } from '../../../core/retention/classes.ts';
import { readPeriod, periodText, periodWords } from '../../../core/retention/periods.ts';
import { termsWords } from '../../../core/retention/sentences.ts';
import { showBytes, showCount } from '../../../core/weigh/units.ts';
import { getSetting, inTransaction, putSetting } from '../database/index.ts';
import { Refusal } from '../refusal.ts';
import { financialYearMonth, listClasses, listRetentions, weighClasses } from '../standing/index.ts';
import { appendLedger } from '../ledger/index.ts';
import { setFinancialYear } from '../archive/index.ts';
import { listMailboxes, type Mailbox } from '../mail/index.ts';
import { type Context, defineUseCase, text } from '../context/index.ts';
import { listedHolds } from './holds.ts';
import { reachOf } from '../access/index.ts';
import { listNamed, listRetained } from './retained.ts';
import { listSchedule, type SeriesView } from './schedule.ts';
import Joi from 'joi';

/** The policy settings of the office. */
export interface PolicySettings {
	/** Who decides on retention, in the office's own words. */
	owner: string;
	/** What a certificate keeps of a destroyed message: subject and sender, or only its hash. */
	certificateKeeps: 'subject' | 'hash';
	/** The shortest and the longest period for single messages (ISO 8601); empty: no limit. */
	ownLeast: string;
	ownMost: string;
	/** First month of the financial year, 1 to 12. */
	firstMonth: number;
}

/** The policy as sentences made from the settings. */
export interface Policy {
	settings: PolicySettings;
	/** For the office. */
	general: string[];
	mailboxes: { mailbox: string; sentences: string[]; folders: { path: string; sentence: string }[] }[];
	series: SeriesView[];
	holds: string[];
}

async function readSettings(context: Context): Promise<PolicySettings> {
	const { db } = context;
	return {
		owner: (await getSetting(db, 'policy-owner')) ?? '',
		certificateKeeps: (await getSetting(db, 'certificate-keeps')) === 'subject' ? 'subject' : 'hash',
		ownLeast: (await getSetting(db, 'own-period-least')) ?? '',
		ownMost: (await getSetting(db, 'own-period-most')) ?? '',
		firstMonth: await financialYearMonth(context)
	};
}

const HOW: Record<Mailbox['retains'], string> = {
	off: 'Nothing is archived or destroyed automatically: the scheduled run is off.',
	ask: 'Due mail is put on a docket, which waits for a person to carry it out.',
	do: 'Due mail is archived or destroyed automatically, once a person has carried out the first docket.'
};

async function ofMailbox(context: Context, mailbox: Mailbox): Promise<Policy['mailboxes'][number]> {
	const retained = await listRetained(context, { mailboxId: mailbox.id });
	const classes = await weighClasses(context.db, mailbox.id);
	const every = mailbox.retainsEvery === 1 ? 'every night' : `every ${mailbox.retainsEvery} days`;
	return {
		mailbox: mailbox.name,
		sentences: [
			mailbox.quotaBytes === undefined ? 'It has no quota.' : `Its quota is ${showBytes(mailbox.quotaBytes)}.`,
			retained.default
				? `Unless a folder says otherwise, mail is ${retained.default}.`
				: 'Unless a folder says otherwise, mail stays, or follows the policy for its class.',
			`${HOW[mailbox.retains]}${mailbox.retains === 'off' ? '' : ` The schedule runs ${every}.`}`,
			mailbox.archives ? '' : 'Nothing of it may be archived.',
			`Deleted mail stays in the bin for ${showCount(mailbox.binDays)} days and can be restored until then; ${
				mailbox.emptiesBin ? 'after that it is destroyed automatically' : 'after that a person empties it'
			}.`,
			`Junk ${mailbox.clearsJunk ? 'goes to the bin automatically' : 'can be put into the bin'} after ${showCount(mailbox.junkDays)} days.`,
			...classes.map(({ name, quotaBytes, bytes }) =>
				quotaBytes === undefined
					? ''
					: `Mail of the class “${name}” may weigh ${showBytes(quotaBytes)}; it weighs ${showBytes(bytes)}.`
			)
		].filter(Boolean),
		folders: retained.folders.filter(({ isOwn }) => isOwn).map(({ path, sentence }) => ({ path, sentence }))
	};
}

/** The policy on one page, made from the settings and so always true. */
export async function readPolicy(context: Context): Promise<Policy> {
	const { db } = context;
	const settings = await readSettings(context);
	const retentions = await listRetentions(db);
	const classes = await listClasses(db);
	const ofClass = ({ name, letter, word, isProtected, retentionId }: RecordClass) => {
		const retention = retentionId === null ? undefined : retentions.get(retentionId);
		const period = retention ? `is ${termsWords(retention.terms)}` : 'stays';
		const ends = isProtected
			? 'It is protected as records: nobody deletes it before its time, and changing its class takes a reason.'
			: word === UNCLASSED
				? 'It is the class of mail that nobody has classed.'
				: '';
		return `Class ${letter}, “${name}”: mail in a folder without a period ${period}. ${ends}`.trim();
	};
	const [least, most] = [readPeriod(settings.ownLeast), readPeriod(settings.ownMost)];
	const named = await listNamed(context);
	const holds = (await listedHolds({ db }, { released: false })).map(({ name, sentence }) => `${name}: ${sentence}`);
	const general = [
		settings.owner ? `Retention is decided by ${settings.owner}.` : 'Nobody is named yet to decide on retention.',
		'Age counts from the day that starts a period, never from the day on which mail was moved.',
		`The financial year begins in ${MONTH_NAMES[settings.firstMonth - 1]}.`,
		...classes.map(ofClass),
		...named.map(
			({ name, label, isSeries, class: of }) =>
				`Mail in a folder called “${name}” ${[
					label ? (isSeries ? `is under series ${label}` : `is ${label}`) : '',
					of ? `is of the class “${classes.find(({ word }) => word === of)?.name ?? of}”` : ''
				]
					.filter(Boolean)
					.join(' and ')}, unless the folder says otherwise.`
		),
		least || most
			? `Single messages may be given a period of their own${least ? `, of ${periodWords(least)} at least` : ''}${most ? `, of ${periodWords(most)} at most` : ''}.`
			: 'Single messages may be given a period of their own.',
		settings.certificateKeeps === 'subject'
			? 'The certificate keeps the sender, subject, dates, size and hash of destroyed mail.'
			: 'The certificate keeps the dates, size and hash of destroyed mail, and nothing that was in it.',
		holds.length > 0
			? `Nothing under a hold is deleted or destroyed: a hold outranks all the rest of this page. ${showCount(holds.length)} ${holds.length === 1 ? 'hold stands' : 'holds stand'}.`
			: 'Nothing under a hold is deleted or destroyed: a hold outranks all the rest of this page. No hold stands.'
	];
	const mailboxes: Policy['mailboxes'] = [];
	// colleagues do not see others' folders and holds
	const { mailboxIds } = await reachOf(context, 'find');
	const isColleague = context.actor.role === 'colleague';
	const theirs = isColleague && mailboxIds !== 'all' ? new Set(mailboxIds) : undefined;
	for (const mailbox of await listMailboxes(db))
		if (theirs?.has(mailbox.id) ?? true) mailboxes.push(await ofMailbox(context, mailbox));
	return { settings, general, mailboxes, series: await listSchedule(context), holds: isColleague ? [] : holds };
}

/** Sets the policy settings that are given. @throws Refusal */
export async function setPolicy(
	context: Context,
	{ firstMonth, ...input }: Partial<PolicySettings>
): Promise<PolicySettings> {
	const bound = (text: string | undefined) => {
		if (text === undefined || text.trim() === '') return text;
		const period = readPeriod(text);
		if (!period)
			throw new Refusal('bad-input', `A period is written like P7Y, P18M or P30D, not "${text}". Nothing was changed.`);
		return periodText(period);
	};
	const set = { ...input, ownLeast: bound(input.ownLeast), ownMost: bound(input.ownMost) };
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const before = await readSettings(within);
		if (set.owner !== undefined) await putSetting(db, 'policy-owner', set.owner.trim());
		if (set.certificateKeeps !== undefined) await putSetting(db, 'certificate-keeps', set.certificateKeeps);
		if (set.ownLeast !== undefined) await putSetting(db, 'own-period-least', set.ownLeast);
		if (set.ownMost !== undefined) await putSetting(db, 'own-period-most', set.ownMost);
		if (firstMonth !== undefined && firstMonth !== before.firstMonth)
			await setFinancialYear(within, { month: firstMonth });
		const after = await readSettings(within);
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'policy-set',
			details: { ...after, before }
		});
		return after;
	});
}

/** The use cases of this file. */
export const policyUseCases = [
	defineUseCase({
		name: 'readPolicy',
		thread: 'heavy',
		right: 'person',
		run: readPolicy
	}),
	defineUseCase({
		name: 'setPolicy',
		input: () =>
			Joi.object({
				owner: text,
				certificateKeeps: Joi.valid('subject', 'hash'),
				ownLeast: text,
				ownMost: text,
				firstMonth: Joi.number().integer().min(1).max(12)
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: setPolicy
	})
] as const;
