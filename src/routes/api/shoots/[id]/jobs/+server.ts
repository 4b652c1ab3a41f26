import { z } from 'zod';
import { getRuntime } from '$lib/server/runtime';
import { WAYS } from '$lib/server/stages/line-up/align-recordings';
import { loadShoot } from '$lib/server/shoots/load-shoot';
import { orderMovie } from '$lib/server/stages/hand-off/render-movie';
import { answer, bodyOf } from '../../../answer';
import { Identity } from '../../../identities';
import type { RequestHandler } from './$types';

const NewJob = z.discriminatedUnion('kind', [
	z.object({ kind: z.literal('gather') }),
	z.object({
		kind: z.literal('line-up'),
		reference: z.uuid().optional(),
		by: z.enum(WAYS).optional(),
		/** Leaves all that is placed where it is. */
		onlyNew: z.boolean().optional()
	}),
	z.object({ kind: z.literal('render'), lineUpId: z.uuid() })
]);

export const GET: RequestHandler = ({ params }) =>
	answer(async () => getRuntime().queue.list(Identity.parse(params.id)));

export const POST: RequestHandler = ({ params, request }) =>
	answer(async () => {
		const runtime = getRuntime();
		const shootId = Identity.parse(params.id);
		const wanted = NewJob.parse(await bodyOf(request));
		await loadShoot(runtime.database, shootId);
		if (wanted.kind === 'render') return { id: await orderMovie(runtime, shootId, wanted.lineUpId) };
		if (wanted.kind === 'gather') return { id: await runtime.queue.add(shootId, 'gather', 'Reading the files') };
		const { kind, ...input } = wanted;
		const title = input.onlyNew ? 'Adding to the line-up' : 'Lining up';
		return { id: await runtime.queue.add(shootId, kind, title, input) };
	}, 202);
