import type { RequestHandler } from './$types';
import type { JobStatus } from '$lib/server/jobs/queue.ts';
import { visitorOf } from '$lib/server/access/cookies.ts';
import { stopping } from '$lib/server/shutdown.ts';

const HEARTBEAT_MS = 15_000;

/** Tells of every job that begins, moves or ends, as server-sent events. */
export const GET: RequestHandler = (event) => {
	const { jobs } = event.locals.office;
	let stop = () => {};
	const stream = new ReadableStream<Uint8Array>({
		start(controller) {
			const encoder = new TextEncoder();
			const send = (text: string) => controller.enqueue(encoder.encode(text));
			// what it was asked with stays on the server
			const tell = ({
				id,
				useCase,
				label,
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
					`event: job\ndata: ${JSON.stringify({ id, useCase, label, who, state, result, error, attempts, beganAt, endedAt, noticedAt, progress })}\n\n`
				);
			// a session that was ended hears nothing more
			const beat = setInterval(() => {
				void visitorOf(event).then(
					(visitor) => {
						if (visitor?.stage !== 'whole') end();
						else if (isOpen) send(': beat\n\n');
					},
					() => end()
				);
			}, HEARTBEAT_MS);
			let isOpen = true;
			const end = () => {
				if (!isOpen) return;
				stop();
				controller.close();
			};
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
