import { showBytes } from '../../../core/weigh/units.ts';
import type { Db } from '../database/index.ts';
import { largestWorkingPapers, weighWorkingPapers, weighWorkingUnder } from './due-store.ts';
import type { Mailbox } from '../mail/index.ts';
import type { WhatIf } from './retention-store.ts';

const FOLDERS_NAMED = 3;

/*
 * The sentence about a mailbox whose working papers exceed their quota, with folders in which to free space;
 * undefined: they do not.
 */
async function overQuota(
	db: Db,
	mailbox: Pick<Mailbox, 'id' | 'name' | 'workingQuotaBytes'>,
	bytes: number
): Promise<string | undefined> {
	const { workingQuotaBytes: quota } = mailbox;
	if (quota === undefined || bytes <= quota) return undefined;
	const largest = (await largestWorkingPapers(db, mailbox.id, FOLDERS_NAMED)).map(
		({ path, bytes: weight }) => `${path} (${showBytes(weight)})`
	);
	return `Working papers of ${mailbox.name} may weigh ${showBytes(quota)}; with this they would weigh ${showBytes(bytes)}.${
		largest.length > 0 ? ` The quickest way to make room is in ${largest.join(', ')}.` : ''
	}`;
}

/** The sentence for additional bytes of working papers that do not fit; undefined: they do. */
export async function overQuotaAfterAdding(db: Db, mailbox: Mailbox, added: number): Promise<string | undefined> {
	if (mailbox.workingQuotaBytes === undefined || added === 0) return undefined;
	return overQuota(db, mailbox, (await weighWorkingPapers(db, mailbox.id)) + added);
}

/**
 * The sentence for settings that make more working papers than fit; undefined: they fit, or do not increase. The
 * temporary tables belong to this connection.
 */
export async function overQuotaUnderSettings(db: Db, mailbox: Mailbox, whatIf: WhatIf): Promise<string | undefined> {
	if (mailbox.workingQuotaBytes === undefined) return undefined;
	const then = await weighWorkingUnder(db, mailbox.id, whatIf);
	return then > (await weighWorkingPapers(db, mailbox.id)) ? overQuota(db, mailbox, then) : undefined;
}
