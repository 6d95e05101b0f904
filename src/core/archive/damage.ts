import { showCount } from '../weigh/units.ts';

/** The kinds of what can be damaged. */
export type DamagedWhat = 'page' | 'content' | 'message' | 'item' | 'words' | 'summary' | 'certificate' | 'ledger';

/** Something that is not as it was written. */
export interface Damage {
	what: DamagedWhat;
	/** The number of the content, message, item, docket or line; null: it concerns the file. */
	id: number | null;
	/** Where the mail lies that it concerns; null: there is none, or it cannot be read. */
	subject: string | null;
	mailbox: string | null;
	folder: string | null;
	/** Whether it can be repaired, from mail or a backup that has it whole. */
	repairable: boolean;
	/** What is wrong, as a sentence without its subject and full stop. */
	says: string;
}

const NAMES: Record<DamagedWhat, string> = {
	page: 'Data file',
	content: 'Content',
	message: 'Message',
	item: 'Item',
	words: 'Index of words, message',
	summary: 'Summaries',
	certificate: 'Certificate of docket',
	ledger: 'Ledger, line'
};

/* Made anew from what is stored, or taken from mail or a backup; the rest is evidence, or SQLite's own structure. */
const REPAIRABLE: readonly DamagedWhat[] = ['content', 'message', 'item', 'words', 'summary'];

/** Whether damage of a kind can be repaired. */
export const isRepairable = (what: DamagedWhat): boolean => REPAIRABLE.includes(what);

/** Damage as a sentence. */
export function damageInWords({ what, id, subject, mailbox, folder, says }: Damage): string {
	const name = id === null ? NAMES[what].split(',')[0] : `${NAMES[what]} ${id}`;
	const where = mailbox === null ? '' : ` “${subject || '(no subject)'}” in ${folder ?? '?'} of ${mailbox}.`;
	return `${name}: ${says}.${where}`;
}

/** How much is damaged: messages by what can be named, and the rest as a number of places. */
export function damageSummary(damaged: readonly Pick<Damage, 'mailbox' | 'folder' | 'subject'>[]): string {
	const mail = new Set(
		damaged
			.filter(({ mailbox }) => mailbox !== null)
			.map((one) => JSON.stringify([one.mailbox, one.folder, one.subject]))
	);
	const others = damaged.filter(({ mailbox }) => mailbox === null).length;
	const parts = [
		...(mail.size > 0 ? [`${showCount(mail.size)} ${mail.size === 1 ? 'message is' : 'messages are'} damaged`] : []),
		...(others > 0 ? [`${showCount(others)} other ${others === 1 ? 'place is' : 'places are'} damaged`] : [])
	];
	return parts.join(', ');
}
