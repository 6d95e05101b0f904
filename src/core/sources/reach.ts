import type { DecisionOptions, DecisionRule } from '../docket/decision.ts';
import { changesOnServer } from './operations.ts';

/** The server of a live mailbox, as far as decisions reach it. */
export interface ServerReach {
	host: string;
	/** Whether decisions are carried there. */
	writes: boolean;
	/** Where archived mail goes: into Kovrel alone, or into the server's archive folder. */
	archiveOn: 'kovrel' | 'server';
	/** What it counts against its quota, in bytes; null: it does not say. */
	quotaUsed: number | null;
	quotaLimit: number | null;
}

/** What a decision reaches on the server of a live mailbox, and what not; empty where that needs no word. */
export function reachSentence(
	rule: DecisionRule,
	options: DecisionOptions,
	{ host, writes, archiveOn }: Pick<ServerReach, 'host' | 'writes' | 'archiveOn'>
): string {
	const kind = changesOnServer(rule, options);
	if (!kind) return '';
	if (!writes) return `Nothing changes on ${host}: Kovrel only reads there.`;
	if (rule.to === 'destroyed')
		return `Removes them from ${host} as well. The backups of ${host} itself are not reached.`;
	if (rule.to === 'archived')
		return archiveOn === 'server'
			? `The archive folder of ${host} takes them: that frees nothing of the quota there.`
			: `Removes them from ${host} once the copies here are checked.`;
	return '';
}
