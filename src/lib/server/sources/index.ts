/* Live mailboxes: their servers, what is fetched from there, and what is carried there. */

export { connectSource, connectUseCases, disconnectSource, listSources, type ServerTest } from './connect.ts';
export { followSources, followUseCases, type PassDone } from './follow.ts';
export { allowWriting, allowWritingUseCases, retryRefused } from './allow-writing.ts';
export { setFetching, setFetchingUseCases } from './set-fetching.ts';
export { watchUseCases } from './watch.ts';
