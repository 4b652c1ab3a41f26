import { z } from 'zod';
import { getRuntime } from '$lib/server/runtime';
import { findAgain } from '$lib/server/stages/gather/find-again';
import { answer, bodyOf } from '../../../answer';
import { Identity } from '../../../identities';
import type { RequestHandler } from './$types';

const Place = z.object({ folder: z.string().min(1, 'Choose a folder.').max(4096) });

export const POST: RequestHandler = ({ params, request }) =>
	answer(async () => {
		const { folder } = Place.parse(await bodyOf(request));
		const runtime = getRuntime();
		const shootId = Identity.parse(params.id);
		const result = await findAgain(runtime, shootId, folder);
		runtime.queue.events.emit('event', { type: 'shoot', shootId });
		return result;
	});
