/* Moving, tagging, flagging, keeping: decisions that leave mail live. */

export { allowArchiving, flag, fold, keep, neverArchive, read, release, unflag, unfold, unread } from './marks.ts';
export { clearTag, clearTagUseCases } from './clear-tag.ts';
export { move } from './move.ts';
export { tag, untag } from './tag.ts';
