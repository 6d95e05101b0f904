/* Searching, opening, exporting and restoring mail within a person's reach. */

export { decideMessages, decideMessagesUseCases, decisionInput, type MessagesDecision } from './decide-messages.ts';
export { EXPORT_FORMATS, exportMail, exportMailUseCases } from './export-mail.ts';
export { countFound, find, type FindResult, findUseCases, searchFields } from './find.ts';
export { type ReadableMessage, readMessageUseCases } from './read-message.ts';
export { restore, restoreUseCases } from './restore.ts';
export { COUNTED_AT_MOST, findItems, foundIdsBehind, weighFound } from './search-store.ts';
export { type Suggestion, suggestUseCases } from './suggest.ts';
