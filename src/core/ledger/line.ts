/** A fact in the ledger, before it is chained. */
export interface LedgerEntry {
	/** ISO 8601 instant in UTC. */
	at: string;
	/** Who acted, by name. */
	who: string;
	/** The person's number; undefined: no person, or a line from before numbers were stored. */
	person?: number | undefined;
	/** The action, one of {@link ACTIONS}. */
	action: Action;
	/** The details: plain JSON. */
	details: Record<string, unknown>;
}

/** All actions of the ledger. */
export const ACTIONS = {
	'archive-begun': 'began this archive',
	'mailbox-made': 'made a mailbox',
	'quota-set': 'set a quota',
	'archiving-set': 'set how a mailbox is archived',
	'financial-year-set': 'set the financial year',
	imported: 'imported mail',
	'docket-carried-out': 'carried out a docket',
	'docket-taken-back': 'took a docket back',
	exported: 'exported mail',
	'clearing-set': 'set how a mailbox is cleared',
	'folder-made': 'made a folder',
	'folder-renamed': 'renamed or moved a folder',
	'folder-removed': 'removed empty folders',
	'folder-paused': 'paused a folder',
	'folder-archiving-set': 'set whether a folder is archived',
	'pause-ended': 'ended the pause of a folder',
	'tag-changed': 'changed a tag',
	'proposal-tags-set': 'set which tags are never proposed',
	'keep-list-set': 'changed a keep-list',
	'leaving-set': 'set how long lists have to stop',
	'list-asked': 'asked a list to stop',
	'sender-marked': 'trusted or blocked a sender',
	'digest-set': 'set what is folded into a digest',
	'digest-made': 'made a digest',
	'hold-placed': 'placed a hold',
	'hold-extended': 'put messages under a hold',
	'review-asked': 'asked an owner for a review',
	'review-answered': 'reviewed what would go',
	'review-ended': 'ended a review',
	'hold-released': 'released a hold',
	'series-set': 'set a records series',
	'series-removed': 'removed a records series from the schedule',
	'class-removed': 'removed a class',
	'rule-added': 'added a standing decision',
	'rule-switched': 'switched a standing decision on or off',
	'rule-removed': 'removed a standing decision',
	'rules-put': 'put standing decisions on a mail server',
	'quota-warnings-set': 'set when to warn of quotas',
	'source-connected': 'connected a mailbox with its server',
	'source-changed': 'changed how Kovrel works with the server of a mailbox',
	'source-disconnected': 'ended following a mailbox on its server',
	'mail-sent': 'sent a mail',
	'signature-set': 'set the signature of a mailbox',
	'answer-awaited': 'set a thread to come back when it is answered',
	'answer-returned': 'brought a thread back',
	'pile-ended': 'made a pile an ordinary folder',
	'rules-ordered': 'ordered the standing decisions',
	'retention-set': 'set what mail is retained under',
	'retaining-set': 'set the scheduled run',
	'policy-set': 'set the retention policy',
	'backed-up': 'made a backup',
	'clock-confirmed': 'said that the clock is right',
	repaired: 'repaired damage',
	'backup-confirmed': 'said that mail is rightly missing from a backup',
	'backup-set': 'set where backups are made',
	'backup-restored': 'restored a backup',
	'person-added': 'added a person',
	'person-changed': 'changed a person',
	'person-ended': 'ended the access of a person',
	'link-made': 'made a sign-in link',
	'signed-in': 'signed in',
	'password-set': 'set a password',
	'code-set': 'set up one-time codes',
	'code-dropped': 'switched off one-time codes',
	'access-set': 'changed the sign-in rules',
	'group-changed': 'changed a group',
	'grant-given': 'granted access to mail',
	'grant-ended': 'ended a grant',
	'owner-set': 'set the owner of a mailbox',
	looked: 'opened a message',
	searched: 'read lines of found messages',
	'had-back': 'restored messages to their own mailbox',
	'request-made': 'made a request',
	'request-answered': 'answered a request',
	'docket-approved': 'approved a destruction',
	'clock-moved': 'let days pass in the demo'
} as const;
export type Action = keyof typeof ACTIONS;

/** The hash before the first line. */
export const BEGINNING = '0'.repeat(64);

/* Keys in order, at every depth: the same facts always give the same text (after RFC 8785, for the values used here). */
function canonical(value: unknown): string {
	if (Array.isArray(value)) return `[${value.map(canonical).join(',')}]`;
	if (value !== null && typeof value === 'object') {
		const fields = Object.entries(value)
			.filter(([, inner]) => inner !== undefined)
			.sort(([a], [b]) => (a < b ? -1 : 1))
			.map(([key, inner]) => `${JSON.stringify(key)}:${canonical(inner)}`);
		return `{${fields.join(',')}}`;
	}
	return JSON.stringify(value);
}

/**
 * The text whose SHA-256 is a line's hash: its number, its facts and the hash of the line before.
 *
 * @param number position in the ledger, from 1, without gaps
 * @param previous hash of the line before, {@link BEGINNING} for the first
 */
export function ledgerText(number: number, entry: LedgerEntry, previous: string): string {
	return canonical({ number, ...entry, previous });
}

/** The details as they are stored. */
export function detailsText(details: Record<string, unknown>): string {
	return canonical(details);
}
