import type { AttachmentKind } from '../message/kinds.ts';

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
