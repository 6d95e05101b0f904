import type { RequestHandler } from './$types';
import { allows } from '../../../core/access/roles.ts';
import type { JobStatus } from '$lib/server/process/index.ts';
import { stopping } from '$lib/server/web/shutdown.ts';
import { routeRight } from '$lib/server/access/index.ts';
import { personOfRequest } from '$lib/server/web/cookies.ts';

const HEARTBEAT_MS = 15_000;
/* How often the listener's session is checked before events are sent. */
const ASKED_EVERY_MS = 1_000;

/** Sends every job that begins, progresses or ends, as server-sent events. */
export const GET: RequestHandler = (event) => {
	const { jobs } = event.locals.office;
	const right = routeRight(event.route.id, event.request.method);
	let stop = () => {};
	const stream = new ReadableStream<Uint8Array>({
		start(controller) {
			const encoder = new TextEncoder();
			let isOpen = true;
			const end = () => {
				if (!isOpen) return;
				stop();
				controller.close();
			};
			let askedAt = performance.now();
			let asked = Promise.resolve(true);
			/* Whether the listener may still receive them: sessions end and roles change while a page stays open. */
			const mayHear = (): Promise<boolean> => {
				if (performance.now() - askedAt > ASKED_EVERY_MS) {
					askedAt = performance.now();
					asked = personOfRequest(event).then(
						(visitor) => visitor?.stage === 'whole' && allows(right, visitor.actor.role),
						() => false
					);
				}
				return asked;
			};
			const send = (text: string) =>
				void mayHear().then((may) => {
					if (!may) end();
					else if (isOpen) controller.enqueue(encoder.encode(text));
				});
			// its input stays on the server
			const tell = ({
				id,
				useCase,
				label,
				about,
				who,
				state,
				result,
				error,
				attempts,
				beganAt,
				endedAt,
				noticedAt,
				progress
			}: JobStatus) =>
				send(
					`event: job\ndata: ${JSON.stringify({ id, useCase, label, about, who, state, result, error, attempts, beganAt, endedAt, noticedAt, progress })}\n\n`
				);
			const beat = setInterval(() => send(': beat\n\n'), HEARTBEAT_MS);
			stop = () => {
				isOpen = false;
				clearInterval(beat);
				jobs.events.off('job', tell);
				stopping.signal.removeEventListener('abort', end);
			};
			stopping.signal.addEventListener('abort', end);
			if (stopping.signal.aborted) return end();
			jobs.events.on('job', tell);
			send(': open\n\n');
			jobs.running().forEach(tell);
		},
		cancel: () => stop()
	});
	return new Response(stream, {
		headers: {
			'content-type': 'text/event-stream',
			'cache-control': 'no-cache, no-transform',
			'x-accel-buffering': 'no'
		}
	});
};
