import type { RequestHandler } from '@sveltejs/kit';
import { getRuntime, type Runtime } from '$lib/server/runtime';
import { refuse } from '../api/answer';

/** Answers what is asked of media in an address, checked; what cannot be given is said as everywhere. */
export function answersMedia<Asked>(
	asked: { parse(sent: unknown): Asked },
	work: (runtime: Runtime, asked: Asked, request: Request) => Promise<Response>
): RequestHandler {
	return async ({ params, url, request }) => {
		try {
			return await work(getRuntime(), asked.parse({ ...Object.fromEntries(url.searchParams), ...params }), request);
		} catch (error) {
			return refuse(error);
		}
	};
}
