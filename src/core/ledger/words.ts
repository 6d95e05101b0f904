import { showBytes, showCount } from '../weigh/units.ts';
import type { Action } from './line.ts';

/** One stored detail of a ledger line, as it is shown. */
export interface Particular {
	name: string;
	value: string;
}

/* Labels of stored names that do not read as words. */
const NAMES: Record<string, string> = {
	addressed: 'addresses of the mailbox',
	approval: 'second approval',
	back: 'let in again',
	because: 'reason',
	before: 'before',
	certificateHash: 'SHA-256 of the certificate',
	clearsJunk: 'junk deleted by night',
	codes: 'one-time codes',
	confirmAbove: 'name asked above',
	continues: 'goes on',
	emptiesBin: 'bin emptied by night',
	import: 'import number',
	inboxAim: 'inbox aim',
	item: 'message number',
	items: 'message numbers',
	seen: 'seen at',
	identity: 'identity of the archive',
	may: 'may',
	messageId: 'Message-ID',
	onlyDue: 'only due mail',
	sha256: 'SHA-256',
	what: 'what',
	who: 'who',
	quotaBytes: 'quota',
	// lines sealed before classes were the office's own
	workingQuotaBytes: 'quota of working papers'
};

/* A docket is carried out in steps, each with a line: its own counts stand beside those of the whole docket. */
const OF_A_STEP: Record<string, string> = { messages: 'messages in this step', bytes: 'size of this step' };
const STEPS: readonly (Action | undefined)[] = ['docket-carried-out', 'docket-taken-back'];

/* Details that are numbers of things, not amounts. */
const KNOWN_BY_NUMBER = ['docket', 'dockets', 'certificate', 'import', 'item', 'items', 'request', 'grant', 'job'];

/* The most important details come first; the others keep their stored order. */
const FIRST = ['docket', 'name', 'mailbox', 'folder', 'folders', 'person', 'hold', 'list', 'tag', 'code', 'what'];

const words = (key: string) =>
	NAMES[key] ??
	key
		.replace(/([a-z])([A-Z])/g, '$1 $2')
		.replaceAll(/[_-]/g, ' ')
		.toLowerCase();

function shown(key: string, value: unknown): string {
	if (typeof value === 'boolean') return value ? 'yes' : 'no';
	if (typeof value === 'number') {
		if (KNOWN_BY_NUMBER.includes(key)) return String(value);
		return /bytes$/i.test(key) ? showBytes(value) : showCount(value);
	}
	if (value === null || value === '') return 'none';
	if (typeof value === 'string') return value;
	if (Array.isArray(value)) return value.length === 0 ? 'none' : value.map((one) => shown(key, one)).join('; ');
	return particularsOf(value as Record<string, unknown>)
		.map(({ name, value: inner }) => `${name} ${inner}`)
		.join(', ');
}

/**
 * The details of a ledger line, each with its label. All are shown, so that the page says as much as the sealed text.
 *
 * @param details plain JSON, as stored
 * @param action what was done
 */
export function particularsOf(details: Record<string, unknown>, action?: Action): Particular[] {
	const place = (key: string) => (FIRST.includes(key) ? FIRST.indexOf(key) : FIRST.length);
	return Object.entries(details)
		.filter(([, value]) => value !== undefined)
		.sort(([a], [b]) => place(a) - place(b))
		.map(([key, value]) => ({
			name: (STEPS.includes(action) ? OF_A_STEP[key] : undefined) ?? words(key),
			value: shown(key, value)
		}));
}
