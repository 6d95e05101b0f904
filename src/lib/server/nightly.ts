import { log } from './log.ts';
import type { Office } from './office.ts';

const HOUR_MS = 3_600_000;
/** Who acts when nobody does. */
const SCHEDULE = 'Kovrel, by its schedule';

/* Once a day: what has had its days in the bins that are switched on for it. */
async function runOnce(office: Office): Promise<void> {
	for (const { id, emptiesBin } of await office.ask('listWeights', undefined, SCHEDULE)) {
		if (!emptiesBin) continue;
		const { due } = await office.ask('listBin', { mailboxId: id, limit: 1 }, SCHEDULE);
		if (due.messages === 0) continue;
		await office.start('emptyDueBins', undefined, 'Nightly: destroying what has had its days in the bin', SCHEDULE);
		return;
	}
}

/** Runs what runs by itself, once a day and when the server starts, until `signal`. */
export function runEveryNight(office: Office, signal: AbortSignal): void {
	let ranOn = '';
	const look = () => {
		const today = new Date().toDateString();
		if (ranOn === today) return;
		ranOn = today;
		runOnce(office).catch((error: unknown) => log.error({ error }, 'the nightly run failed'));
	};
	look();
	const timer = setInterval(look, HOUR_MS);
	signal.addEventListener('abort', () => clearInterval(timer), { once: true });
}
