/* Live mailboxes: their servers, and what is fetched from there. Nothing is written on a server. */

export { connectSource, connectUseCases, disconnectSource, listSources, type ServerTest } from './connect.ts';
export { followSources, followUseCases, type PassDone } from './follow.ts';
