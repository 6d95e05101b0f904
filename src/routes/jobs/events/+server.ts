import type { RequestHandler } from './$types';
import type { JobStatus } from '$lib/server/jobs/queue.ts';
import { stopping } from '$lib/server/shutdown.ts';

const HEARTBEAT_MS = 15_000;

/** Tells of every job that begins, moves or ends, as server-sent events. */
export const GET: RequestHandler = ({ locals }) => {
	const { jobs } = locals.office;
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
			const beat = setInterval(() => send(': beat\n\n'), HEARTBEAT_MS);
			const end = () => {
				stop();
				controller.close();
			};
			stop = () => {
				clearInterval(beat);
				jobs.events.off('job', tell);
				stopping.signal.removeEventListener('abort', end);
			};
			stopping.signal.addEventListener('abort', end);
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
