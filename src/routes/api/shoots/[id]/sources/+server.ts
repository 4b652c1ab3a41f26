import { z } from 'zod';
import { getRuntime } from '$lib/server/runtime';
import { addSource } from '$lib/server/stages/gather/sources';
import { answer, bodyOf } from '../../../answer';
import { Identity } from '../../../identities';
import type { RequestHandler } from './$types';

const NewSource = z.object({ folder: z.string().min(1, 'Choose a folder.').max(4096) });

export const POST: RequestHandler = ({ params, request }) =>
	answer(async () => {
		const { folder } = NewSource.parse(await bodyOf(request));
		await addSource(getRuntime(), Identity.parse(params.id), folder);
	}, 201);
