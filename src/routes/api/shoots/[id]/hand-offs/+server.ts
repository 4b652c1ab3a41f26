import { z } from 'zod';
import { getRuntime } from '$lib/server/runtime';
import { listHandOffs } from '$lib/server/stages/hand-off/hand-offs';
import { writeOtio } from '$lib/server/stages/hand-off/write-otio';
import { answer, bodyOf } from '../../../answer';
import { Identity } from '../../../identities';
import type { RequestHandler } from './$types';

const NewHandOff = z.object({ kind: z.literal('otio'), lineUpId: z.uuid() });

export const GET: RequestHandler = ({ params }) =>
	answer(async () => listHandOffs(getRuntime(), Identity.parse(params.id)));

export const POST: RequestHandler = ({ params, request }) =>
	answer(async () => {
		const { lineUpId } = NewHandOff.parse(await bodyOf(request));
		return { id: await writeOtio(getRuntime(), Identity.parse(params.id), lineUpId) };
	}, 201);
