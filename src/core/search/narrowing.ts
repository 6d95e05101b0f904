import type { ProposalKind } from '../likeness/proposals.ts';
import type { Grouping } from '../lots/lots.ts';
import type { AttachmentKind } from '../message/kinds.ts';
import type { MailKind } from '../message/mail-kind.ts';
import type { DueAction } from '../retention/terms.ts';

/** Filters beside the words of a search; a message has to match each of them. */
export interface Narrowing {
	/** Number of a mailbox. */
	mailbox?: number | undefined;
	/** Number of a folder, without its subfolders. */
	folder?: number | undefined;
	/** Number of the correspondent who wrote it. */
	who?: number | undefined;
	/** The year in which it was received, `YYYY`. */
	year?: string | undefined;
	/** Number of a tag. */
	tag?: number | undefined;
	/** Number of the list that it is from. */
	list?: number | undefined;
	kind?: MailKind | undefined;
	/** It has a file of this kind, or any. */
	file?: AttachmentKind | 'any' | undefined;
}

/** A filter, with how many messages would be left. */
export interface Choice {
	value: string;
	/** Its label. */
	name: string;
	messages: number;
}

/** The filters of each kind; the most messages first. */
export type Choices = Record<keyof Narrowing, Choice[]>;

/** Messages that another page of Kovrel gathers, opened as a sheet of messages. */
export type Gathered =
	/** One lot of a grouping; with the folder of its sheet, of it and its subfolders. `label` is for words alone. */
	| { of: 'lot'; by: Grouping; key: string; label?: string | undefined; folder?: string | undefined }
	/** The open proposals of one kind, in a folder with its subfolders or in all. */
	| { of: 'proposal'; proposal: ProposalKind; folder?: string | undefined }
	/** Mail in the inboxes of the mailboxes searched; all folders of those that have none. */
	| { of: 'inbox' }
	/** Mail in a pile whose day has come. */
	| { of: 'waited' }
	/** Mail that its owner was asked to review. */
	| { of: 'review'; review: number }
	/** A row of due mail: its disposition, a day or a month, and its retention and folder. */
	| { of: 'due'; action: DueAction; date: string; retentionId: number; folderId: number };
