import { z } from 'zod';
import { getRuntime } from '$lib/server/runtime';
import { cleanUp, setLimit, storage } from '$lib/server/storage/storage';
import { answer, bodyOf } from '../answer';
import type { RequestHandler } from './$types';

const Wanted = z.discriminatedUnion('action', [
	z.object({ action: z.literal('clean-up') }),
	z.object({ action: z.literal('set-limit'), limitBytes: z.number().int().min(1e9).max(1e15) })
]);

/** What takes room on the disk. */
export const GET: RequestHandler = () => answer(() => storage(getRuntime()));

export const POST: RequestHandler = ({ request }) =>
	answer(async () => {
		const wanted = Wanted.parse(await bodyOf(request));
		const runtime = getRuntime();
		if (wanted.action === 'set-limit') await setLimit(runtime, wanted.limitBytes);
		else await cleanUp(runtime);
		return storage(runtime);
	});
