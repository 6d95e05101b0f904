import { Cron } from 'croner';
import { type Actor, KOVREL } from '../../../core/access/roles.ts';
import { log } from '../log.ts';
import type { Office } from './office.ts';

/* Mail that is to go at a time goes within the minute, and what arrives on a server is here within one. */
const EVERY_MINUTE = '* * * * *';
/* Servers that say themselves what happens are heard within a few seconds. */
const EVERY_SECOND = '* * * * * *';
/* Checked every hour: each day of the office gets one run, whatever the machine's clock does. */
const EVERY_HOUR = '7 * * * *';
/* A server that is started every day checks its share as well. */
const FIRST_CHECK_MS = 5 * 60_000;
/** The actor of scheduled work. */
const SCHEDULE: Actor = { ...KOVREL, name: 'Kovrel, by its schedule' };

/** Does scheduled work once on each day of the office and at the server's start, until `signal`. */
export function runEveryNight(office: Office, signal: AbortSignal): void {
	let ranOn = '';
	const look = async () => {
		await office.change('noteClock', undefined, SCHEDULE);
		// nothing can be destroyed until stored mail has been read again
		if (await office.ask('hasToReadAgain', undefined, SCHEDULE)) return;
		const today = await office.ask('officeToday', undefined, SCHEDULE);
		if (ranOn === today) return;
		ranOn = today;
		if (await office.ask('nightHasWork', undefined, SCHEDULE)) await office.start('runNight', undefined, SCHEDULE);
		// last, so that its failure does not affect the run
		const uploads = await office.change('clearUploads', undefined, SCHEDULE);
		if (uploads > 0) log.info({ uploads }, 'removed uploads that nobody went on with');
		await office.change('returnFreedSpace', undefined, SCHEDULE);
	};
	const lookSafely = () => {
		look().catch((error: unknown) => log.error({ error }, 'the nightly run failed'));
	};
	lookSafely();
	const hourly = new Cron(EVERY_HOUR, { protect: true, unref: true }, lookSafely);
	// not while people wait for the server to begin
	const check = async () => {
		if (await office.ask('checkIsDue', undefined, SCHEDULE)) await office.start('verifyShare', undefined, SCHEDULE);
	};
	const checkSafely = () => {
		check().catch((error: unknown) => log.error({ error }, 'a share of what is stored could not be checked'));
	};
	const first = setTimeout(checkSafely, FIRST_CHECK_MS).unref();
	const checking = new Cron(EVERY_HOUR, { protect: true, unref: true }, checkSafely);
	const sendMail = async () => {
		if (await office.ask('mailIsDue', undefined, SCHEDULE)) await office.change('sendDueMail', undefined, SCHEDULE);
	};
	const minutely = new Cron(EVERY_MINUTE, { protect: true, unref: true }, () => {
		sendMail().catch((error: unknown) => log.error({ error }, 'mail whose time had come could not be sent'));
	});
	// a pass that is under way sees what is new by itself, and another connection would be one too many
	const isFollowing = () => office.jobs.running().some(({ useCase }) => useCase === 'followSources');
	const fetchMail = async () => {
		if (isFollowing()) return;
		if (await office.ask('serversHaveNews', undefined, SCHEDULE)) await office.start('followSources', {}, SCHEDULE);
	};
	const fetching = new Cron(EVERY_MINUTE, { protect: true, unref: true }, () => {
		fetchMail().catch((error: unknown) => log.error({ error }, 'live mailboxes could not be looked at'));
	});
	// a second for who listens; without live mailboxes, a minute is soon enough to find one
	let listens = true;
	const listen = async () => {
		if (isFollowing()) return;
		const heard = await office.ask('serversHaveSpoken', undefined, SCHEDULE);
		({ listens } = heard);
		for (const mailbox of heard.mailboxes) await office.start('followSources', { mailbox }, SCHEDULE);
	};
	const listening = new Cron(EVERY_SECOND, { protect: true, unref: true }, () => {
		if (!listens && new Date().getSeconds() !== 0) return;
		listen().catch((error: unknown) => log.error({ error }, 'live mailboxes could not be listened to'));
	});
	const stop = () => {
		clearTimeout(first);
		for (const clock of [hourly, checking, minutely, fetching, listening]) clock.stop();
	};
	signal.addEventListener('abort', stop, { once: true });
}
