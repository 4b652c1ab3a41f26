import { z } from 'zod';
import { getRuntime } from '$lib/server/runtime';
import { answer, bodyOf } from '../../../answer';
import { Identity } from '../../../identities';
import type { RequestHandler } from './$types';

const Watched = z.object({ fileIds: z.array(z.uuid()).max(1000) });

/** What the editor looks at is prepared before the rest. */
export const POST: RequestHandler = ({ params, request }) =>
	answer(async () => {
		const { fileIds } = Watched.parse(await bodyOf(request));
		getRuntime().watched.set(Identity.parse(params.id), new Set(fileIds));
	});
