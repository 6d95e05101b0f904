/* Words and names whose mail is kept. */

export { listKeepLines } from './keep-lines-store.ts';
export { applyKeepList, decideKeepList, type KeepHits, keepListUseCases, searchKeepList } from './keep-list.ts';
