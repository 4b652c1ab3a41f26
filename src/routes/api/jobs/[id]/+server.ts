import { z } from 'zod';
import { getRuntime } from '$lib/server/runtime';
import { answer, bodyOf } from '../../answer';
import { Identity } from '../../identities';
import type { RequestHandler } from './$types';

const Action = z.object({ action: z.enum(['stop', 'retry']) });

export const POST: RequestHandler = ({ params, request }) =>
	answer(async () => {
		const { action } = Action.parse(await bodyOf(request));
		const { queue } = getRuntime();
		await (action === 'stop' ? queue.stop(Identity.parse(params.id)) : queue.retry(Identity.parse(params.id)));
	});
