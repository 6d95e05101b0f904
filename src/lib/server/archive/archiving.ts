import { type Layout, layoutWords } from '../../../core/archive/layout.ts';
import { inTransaction, putSetting } from '../database/index.ts';
import { Refusal } from '../refusal.ts';
import { appendLedger } from '../ledger/index.ts';
import { type Mailbox, type MailboxRef, putArchiving, requireMailbox, requireMailboxId } from '../mail/index.ts';
import { applySmall, financialYearMonth, noteSettings } from '../standing/index.ts';
import { type Context, count, defineUseCase, id, layout, mailboxRef } from '../context/index.ts';
import Joi from 'joi';
import { type FactsCount, oldestFacts } from './archive-targets-store.ts';
import { prepareArranging } from './prepare-archiving.ts';

/** Sets the first month of the office's financial year. Archived mail stays in its place. @throws Refusal */
export async function setFinancialYear(context: Context, input: { month: number }): Promise<void> {
	if (!Number.isInteger(input.month) || input.month < 1 || input.month > 12)
		throw new Refusal(
			'bad-input',
			`A financial year begins in month 1 to 12, not ${input.month}. Nothing was changed.`
		);
	await inTransaction(context.db, async (db) => {
		const before = await financialYearMonth({ db });
		await putSetting(db, 'financial-year-month', String(input.month));
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'financial-year-set',
			details: { month: input.month, before }
		});
		await noteSettings(db, undefined);
		await applySmall({ ...context, db });
	});
}

/** A mailbox's settings for archiving; only those given change. */
export interface ArchivingSettings {
	mailbox: MailboxRef;
	layout?: Layout | undefined;
	/** False: none of its mail may be archived. */
	archives?: boolean | undefined;
}

const inWords = ({ layout, archives }: Pick<Mailbox, 'layout' | 'archives'>) =>
	archives ? layoutWords(layout) : 'archives nothing';

/** Sets how a mailbox is archived. Archived mail stays in its place until it is arranged anew. @throws Refusal */
export async function setArchiving(context: Context, input: ArchivingSettings): Promise<Mailbox> {
	return inTransaction(context.db, async (db) => {
		const mailbox = await requireMailbox({ ...context, db }, input.mailbox);
		const next = { layout: input.layout ?? mailbox.layout, archives: input.archives ?? mailbox.archives };
		await putArchiving(db, mailbox.id, next);
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'archiving-set',
			details: { mailbox: mailbox.name, archive: inWords(next), before: inWords(mailbox) }
		});
		return { ...mailbox, ...next };
	});
}

/** A mailbox's settings for archiving, with those that change along with them. */
interface ArchivingChange extends ArchivingSettings {
	/** First month of the office's financial year. */
	financialYear: number;
	/** Whether archived mail is arranged anew as well. */
	anew: boolean;
}

/** Sets how a mailbox is archived and the financial year, and drafts the docket that arranges the archive anew. @throws Refusal */
async function changeArchiving(context: Context, input: ArchivingChange): Promise<Mailbox> {
	const { financialYear, anew, ...settings } = input;
	return inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		if ((await financialYearMonth(within)) !== financialYear) await setFinancialYear(within, { month: financialYear });
		const mailbox = await setArchiving(within, settings);
		if (anew) await prepareArranging(within, { mailbox: mailbox.id });
		return mailbox;
	});
}

/** Facts of the oldest mail, from which the tree that a layout makes is drawn. @throws Refusal */
async function layoutSample(context: Context, input: { mailboxId: number }): Promise<FactsCount[]> {
	return oldestFacts(context.db, (await requireMailboxId(context, input.mailboxId)).id);
}

/** The use cases of this file. */
export const archivingUseCases = [
	defineUseCase({
		name: 'layoutSample',
		input: () => Joi.object({ mailboxId: id.required() }).required(),
		thread: 'heavy',
		right: 'administrator',
		run: layoutSample
	}),
	defineUseCase({
		name: 'changeArchiving',
		input: () =>
			Joi.object({
				mailbox: mailboxRef.required(),
				layout: layout.required(),
				archives: Joi.boolean().required(),
				financialYear: count.required(),
				anew: Joi.boolean().required()
			}).required(),
		thread: 'writer',
		right: 'administrator',
		run: changeArchiving
	}),
	defineUseCase({
		name: 'setArchiving',
		input: () => Joi.object({ mailbox: mailboxRef.required(), layout: layout, archives: Joi.boolean() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: setArchiving
	}),
	defineUseCase({
		name: 'setFinancialYear',
		input: () => Joi.object({ month: Joi.number().required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: setFinancialYear
	})
] as const;
