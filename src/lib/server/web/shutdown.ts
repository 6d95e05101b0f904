import { building, dev } from '$app/environment';
import { log } from '../log.ts';

/*
 * adapter-node emits 'sveltekit:shutdown' only after the last connection has closed, so an open event stream would
 * delay it for SHUTDOWN_TIMEOUT (30 s): long-lived responses listen to this instead.
 */
export const stopping = new AbortController();

/* The time adapter-node gives open connections, and the time for everything else. */
const connectionsGetS = Number.parseInt(process.env.SHUTDOWN_TIMEOUT ?? '', 10) || 30;
const LONGEST_END_S = 15;

/* Acknowledged work is on the disk, and jobs continue at the next start, so it may be ended. */
function cutOff(): void {
	log.warn({ open: process.getActiveResourcesInfo() }, 'The server did not come to its end, and is cut off.');
	process.exit(1);
}

// not in dev: a SIGINT listener would disable Ctrl-C in vite
if (!dev && !building) {
	for (const signal of ['SIGTERM', 'SIGINT'] as const)
		process.once(signal, () => {
			setTimeout(cutOff, (connectionsGetS + LONGEST_END_S) * 1000).unref();
			stopping.abort();
		});
}
