import type { ServerEvent } from '$lib/contract/events';
import { getRuntime } from '$lib/server/runtime';
import type { RequestHandler } from './$types';

/** A line now and then keeps the connection open through whatever lies between. */
const HEARTBEAT_MS = 15_000;

/** What happens, as server-sent events. */
export const GET: RequestHandler = ({ request }) => {
	const { bus } = getRuntime();
	let end: () => void = () => undefined;
	const stream = new ReadableStream<string>({
		start(controller) {
			const send = (event: ServerEvent) => controller.enqueue(`data: ${JSON.stringify(event)}\n\n`);
			const heartbeat = setInterval(() => controller.enqueue(': still here\n\n'), HEARTBEAT_MS);
			controller.enqueue(': hello\n\n');
			const unsubscribe = bus.subscribe(send);
			end = () => {
				clearInterval(heartbeat);
				unsubscribe();
			};
			request.signal.addEventListener('abort', () => end());
		},
		cancel: () => end()
	}).pipeThrough(new TextEncoderStream());
	return new Response(stream, { headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store' } });
};
