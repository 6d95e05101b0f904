import { Cron } from 'croner';
import { type Actor, KOVREL } from '../../../core/access/roles.ts';
import { log } from '../log.ts';
import type { Office } from './office.ts';

/* Every hour it is asked whether a new day has begun in the office: whatever the clock of the machine does, a day is one. */
const EVERY_HOUR = '7 * * * *';
/** Who acts when nobody does. */
const SCHEDULE: Actor = { ...KOVREL, name: 'Kovrel, by its schedule' };

/** Runs what runs by itself, once on each day of the office and when the server starts, until `signal`. */
export function runEveryNight(office: Office, signal: AbortSignal): void {
	let ranOn = '';
	const look = async () => {
		const today = await office.ask('officeToday', undefined, SCHEDULE);
		if (ranOn === today) return;
		ranOn = today;
		if (await office.ask('nightHasWork', undefined, SCHEDULE)) await office.start('runNight', undefined, SCHEDULE);
		// last: where it fails, the night is not held up
		const uploads = await office.change('clearUploads', undefined, SCHEDULE);
		if (uploads > 0) log.info({ uploads }, 'removed uploads that nobody went on with');
	};
	const lookSafely = () => {
		look().catch((error: unknown) => log.error({ error }, 'the nightly run failed'));
	};
	lookSafely();
	const hourly = new Cron(EVERY_HOUR, { protect: true, unref: true }, lookSafely);
	signal.addEventListener('abort', () => hourly.stop(), { once: true });
}
