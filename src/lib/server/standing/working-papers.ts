import { showBytes } from '../../../core/weigh/units.ts';
import type { Db } from '../database/index.ts';
import { largestWorking, weighWorking, weighWorkingThen } from './due-store.ts';
import type { Mailbox } from '../mail/index.ts';
import type { WhatIf } from './retention-store.ts';

const FOLDERS_NAMED = 3;

/* What is said where the working papers of a mailbox weigh more than they may, with where room is; undefined: they do not. */
async function overQuota(
	db: Db,
	mailbox: Pick<Mailbox, 'id' | 'name' | 'workingQuotaBytes'>,
	bytes: number
): Promise<string | undefined> {
	const { workingQuotaBytes: quota } = mailbox;
	if (quota === undefined || bytes <= quota) return undefined;
	const largest = (await largestWorking(db, mailbox.id, FOLDERS_NAMED)).map(
		({ path, bytes: weight }) => `${path} (${showBytes(weight)})`
	);
	return `Working papers of ${mailbox.name} may weigh ${showBytes(quota)}; with this they would weigh ${showBytes(bytes)}.${
		largest.length > 0 ? ` The quickest way to make room is in ${largest.join(', ')}.` : ''
	}`;
}

/** What is said where so many more bytes of working papers do not fit; undefined: they do. */
export async function overQuotaWith(db: Db, mailbox: Mailbox, added: number): Promise<string | undefined> {
	if (mailbox.workingQuotaBytes === undefined || added === 0) return undefined;
	return overQuota(db, mailbox, (await weighWorking(db, mailbox.id)) + added);
}

/**
 * What is said where other settings make more working papers than fit; undefined: they fit, or are no more than now. The
 * tables in memory that it is reckoned in are this connection's.
 */
export async function overQuotaThen(db: Db, mailbox: Mailbox, whatIf: WhatIf): Promise<string | undefined> {
	if (mailbox.workingQuotaBytes === undefined) return undefined;
	const then = await weighWorkingThen(db, mailbox.id, whatIf);
	return then > (await weighWorking(db, mailbox.id)) ? overQuota(db, mailbox, then) : undefined;
}
