import type { AttachmentKind } from '../message/kinds.ts';

/** Plain choices beside the words of a search; each that is given has to be true. */
export interface Narrowing {
	/** Number of a mailbox. */
	mailbox?: number | undefined;
	/** Number of a folder: it, without those below it. */
	folder?: number | undefined;
	/** Number of a correspondent who wrote it. */
	who?: number | undefined;
	/** `YYYY` in which it was received. */
	year?: string | undefined;
	/** Number of a tag. */
	tag?: number | undefined;
	/** It has a file of this kind, or any. */
	file?: AttachmentKind | 'any' | undefined;
}

/** A choice that can be made, with how many would be left. */
export interface Choice {
	value: string;
	/** As it is shown. */
	name: string;
	messages: number;
}

/** Of each kind, what can be chosen; the most messages first. */
export type Choices = Record<keyof Narrowing, Choice[]>;
