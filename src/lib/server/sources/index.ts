/* Live mailboxes: their servers, what is fetched from there, and what is carried there. */

export {
	connectSource,
	connectUseCases,
	disconnectSource,
	type KnownServer,
	listSources,
	type ServerTest,
	withSieveServer
} from './connect.ts';
export { ServerTrouble } from './imap.ts';
export type { SieveLine } from './managesieve.ts';
export { placesOnServer } from './places-on-server.ts';
export { requireSource } from './require-source.ts';
export { listStoredSources, putRestored, putScriptSays, sourceOf } from './sources-store.ts';
export { followSources, followUseCases, type PassDone } from './follow.ts';
export { allowWriting, allowWritingUseCases, retryRefused } from './allow-writing.ts';
export { setFetching, setFetchingUseCases } from './set-fetching.ts';
export { watchUseCases } from './watch.ts';
