import type { ClassWord } from '../../../core/retention/classes.ts';
import { showBytes } from '../../../core/weigh/units.ts';
import type { Db } from '../database/index.ts';
import type { Mailbox } from '../mail/index.ts';
import { type ClassWeight, largestOfClass, weighClasses } from './classes-store.ts';
import { weighClassesUnder } from './due-store.ts';
import type { WhatIf } from './retention-store.ts';

const FOLDERS_NAMED = 3;

type Named = Pick<Mailbox, 'id' | 'name'>;

/* The sentence about a class that exceeds its quota, with folders in which to free space. */
async function overQuota(db: Db, mailbox: Named, of: ClassWeight, bytes: number): Promise<string> {
	const largest = (await largestOfClass(db, mailbox.id, of.id, FOLDERS_NAMED)).map(
		({ path, bytes: weight }) => `${path} (${showBytes(weight)})`
	);
	return `Mail of the class “${of.name}” may weigh ${showBytes(of.quotaBytes ?? 0)} in ${mailbox.name}; with this it would weigh ${showBytes(bytes)}.${
		largest.length > 0 ? ` The quickest way to make room is in ${largest.join(', ')}.` : ''
	}`;
}

/**
 * The sentence for bytes added to classes that do not fit; undefined: they do.
 *
 * @param added bytes, by class
 */
export async function overQuotaAfterAdding(
	db: Db,
	mailbox: Named,
	added: ReadonlyMap<ClassWord, number>
): Promise<string | undefined> {
	if ([...added.values()].every((bytes) => bytes === 0)) return undefined;
	for (const of of await weighClasses(db, mailbox.id)) {
		const more = added.get(of.word) ?? 0;
		if (of.quotaBytes !== undefined && more > 0 && of.bytes + more > of.quotaBytes)
			return overQuota(db, mailbox, of, of.bytes + more);
	}
	return undefined;
}

/**
 * The sentences for settings that put more mail into classes than their quotas allow; empty: it fits, or does not
 * increase. The temporary tables belong to this connection.
 */
export async function overQuotaUnderSettings(db: Db, mailbox: Named, whatIf: WhatIf): Promise<string[]> {
	const changed = new Map(whatIf.classes?.map(({ word, quotaBytes }) => [word, quotaBytes]));
	const limited = (await weighClasses(db, mailbox.id))
		.map((of) => (of.isOwn || !changed.has(of.word) ? of : { ...of, quotaBytes: changed.get(of.word) }))
		.filter(({ quotaBytes }) => quotaBytes !== undefined);
	if (limited.length === 0) return [];
	const then = await weighClassesUnder(db, mailbox.id, whatIf);
	const over: string[] = [];
	for (const of of limited) {
		const bytes = then.get(of.id) ?? 0;
		const isMore = bytes > of.bytes || changed.has(of.word);
		if (isMore && bytes > (of.quotaBytes ?? 0)) over.push(await overQuota(db, mailbox, of, bytes));
	}
	return over;
}
