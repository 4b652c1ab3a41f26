import type { AppEvent } from '$lib/server/jobs/job-queue';
import { getRuntime } from '$lib/server/runtime';
import type { RequestHandler } from './$types';

/** A line now and then keeps the connection open through whatever lies between. */
const HEARTBEAT_MS = 15_000;

/** What happens, as server-sent events. */
export const GET: RequestHandler = ({ request }) => {
	const { queue } = getRuntime();
	let end: () => void = () => undefined;
	const stream = new ReadableStream<string>({
		start(controller) {
			const send = (event: AppEvent) => controller.enqueue(`data: ${JSON.stringify(event)}\n\n`);
			const heartbeat = setInterval(() => controller.enqueue(': still here\n\n'), HEARTBEAT_MS);
			controller.enqueue(': hello\n\n');
			queue.events.on('event', send);
			end = () => {
				clearInterval(heartbeat);
				queue.events.off('event', send);
			};
			request.signal.addEventListener('abort', () => end());
		},
		cancel: () => end()
	}).pipeThrough(new TextEncoderStream());
	return new Response(stream, { headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store' } });
};
