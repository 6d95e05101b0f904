/* Words and names whose mail is kept. */

export { applyKeepList, decideKeepList, type KeepHits, keepListUseCases, searchKeepList } from './keep-list.ts';
