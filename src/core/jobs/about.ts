import { showCount } from '../weigh/units.ts';

/** The subject of a job, as data: a page finds its job by it, and {@link jobWords} puts it into words. */
export type JobAbout =
	| { kind: 'docket'; docket: number; does: 'carry out' | 'take back'; what: string }
	| { kind: 'import'; source: string; mailbox: string }
	| { kind: 'export'; mailbox: string | undefined }
	| {
			kind:
				| 'reread'
				| 'threads'
				| 'files'
				| 'lists'
				| 'digests'
				| 'due dates'
				| 'night'
				| 'verify'
				| 'verify share'
				| 'repair'
				| 'awaited';
	  }
	| { kind: 'proposals'; mailboxId: number }
	| { kind: 'scheduled run' | 'standing decisions' | 'live mailboxes'; mailbox: string | undefined }
	| { kind: 'days'; days: number }
	| { kind: 'backup'; folder: string; isNightly: boolean };

/** The subject of a job, in words. */
export function jobWords(about: JobAbout): string {
	switch (about.kind) {
		case 'docket':
			return `Docket ${about.docket}: ${about.does === 'take back' ? 'taking back. ' : ''}${about.what}`;
		case 'import':
			return `Importing ${about.source} into ${about.mailbox}`;
		case 'export':
			return `Exporting mail${about.mailbox ? ` of ${about.mailbox}` : ''}`;
		case 'reread':
			return 'Reading stored mail again';
		case 'threads':
			return 'Threading stored mail';
		case 'files':
			return 'Words inside attachments';
		case 'lists':
			return 'Asking lists to stop';
		case 'digests':
			return 'Making the digests that are due';
		case 'due dates':
			return 'Due dates after a change of retention';
		case 'night':
			return 'Nightly round';
		case 'awaited':
			return 'Bringing back threads that were answered';
		case 'verify share':
			return 'Checking a share of what is stored';
		case 'repair':
			return 'Repairing what is damaged';
		case 'verify':
			return 'Checking every stored message and the ledger';
		case 'proposals':
			return 'Looking for mail that can be cleared';
		case 'scheduled run':
			return `Scheduled run${about.mailbox ? ` of ${about.mailbox}` : ''}`;
		case 'standing decisions':
			return `Standing decisions${about.mailbox ? ` of ${about.mailbox}` : ''}`;
		case 'live mailboxes':
			return about.mailbox ? `Fetching mail of ${about.mailbox}` : 'Fetching mail of live mailboxes';
		case 'days':
			return about.days === 1 ? 'A day passes' : `${showCount(about.days)} days pass`;
		case 'backup':
			return about.isNightly ? `The backup of the night to ${about.folder}` : `A backup to ${about.folder}`;
	}
}
