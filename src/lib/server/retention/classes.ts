import type { ClassWord, RecordClass } from '../../../core/retention/classes.ts';
import { termsWords } from '../../../core/retention/sentences.ts';
import { showCount, showMessages } from '../../../core/weigh/units.ts';
import { type Context, defineUseCase, recordClass, text } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import { appendLedger } from '../ledger/index.ts';
import { Refusal } from '../refusal.ts';
import { listClasses, listRetentions, removeClass, usesOfClasses } from '../standing/index.ts';
import Joi from 'joi';

/** A class with its period in words, and its uses. */
export interface ClassView extends RecordClass {
	/** Empty: none. */
	period: string;
	/** The code of its series; empty: it has none. */
	series: string;
	/** Folders and names of folders that set it. */
	places: number;
	/** Messages of it, without the unclassed. */
	messages: number;
}

/** The classes of the office. */
export async function showClasses({ db }: Context): Promise<ClassView[]> {
	const retentions = await listRetentions(db);
	const uses = await usesOfClasses(db);
	return (await listClasses(db)).map((of) => {
		const retention = of.retentionId === null ? undefined : retentions.get(of.retentionId);
		return {
			...of,
			period: retention ? termsWords(retention.terms) : '',
			series: retention?.series?.code ?? '',
			...(uses.get(of.word) ?? { places: 0, messages: 0 })
		};
	});
}

/** Removes a class that nothing uses. @throws Refusal */
export async function discardClass(context: Context, input: { class: ClassWord; because: string }): Promise<void> {
	const because = input.because.trim();
	const refuse = (message: string) => new Refusal('not-possible', `${message} Nothing was changed.`);
	await inTransaction(context.db, async (db) => {
		const of = (await showClasses({ ...context, db })).find(({ word }) => word === input.class);
		if (!of) throw refuse(`There is no class “${input.class}”.`);
		if (of.id === 1) throw refuse('Mail that nobody has classed needs a class.');
		if (of.places + of.messages > 0)
			throw refuse(
				`The class “${of.name}” is in use: ${showCount(of.places)} ${of.places === 1 ? 'folder or folder name sets' : 'folders or folder names set'} it, and ${showMessages(of.messages)} ${of.messages === 1 ? 'is' : 'are'} of it.`
			);
		if (because === '') throw refuse('Say why it is removed. The reason stays in the ledger.');
		await removeClass(db, of.word, context.now().toISOString());
		await appendLedger(db, {
			at: context.now(),
			by: context.actor,
			action: 'class-removed',
			details: { class: of.name, because }
		});
	});
}

/** The use cases of this file. */
export const classUseCases = [
	defineUseCase({ name: 'showClasses', thread: 'reader', right: 'oversight', run: showClasses }),
	defineUseCase({
		name: 'discardClass',
		input: () => Joi.object({ class: recordClass.required(), because: text.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: discardClass
	})
] as const;
