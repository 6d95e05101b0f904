import { building, dev } from '$app/environment';
import { log } from '../log.ts';

/* adapter-node emits 'sveltekit:shutdown' only after the last connection has closed, so an open event stream would
   hold it up for SHUTDOWN_TIMEOUT (30 s): long-lived responses listen to this instead. */
export const stopping = new AbortController();

/* What open connections are given by adapter-node, and what all else gets beside that. */
const connectionsGetS = Number.parseInt(process.env.SHUTDOWN_TIMEOUT ?? '', 10) || 30;
const LONGEST_END_S = 15;

/* Whatever holds it up: what was acknowledged is on the disk, and jobs go on at the next start. */
function cutOff(): void {
	log.warn({ open: process.getActiveResourcesInfo() }, 'The server did not come to its end, and is cut off.');
	process.exit(1);
}

// not in dev: a SIGINT listener there would take away Ctrl-C from vite
if (!dev && !building) {
	for (const signal of ['SIGTERM', 'SIGINT'] as const)
		process.once(signal, () => {
			setTimeout(cutOff, (connectionsGetS + LONGEST_END_S) * 1000).unref();
			stopping.abort();
		});
}
