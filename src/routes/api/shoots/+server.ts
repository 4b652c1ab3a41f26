import { z } from 'zod';
import { getRuntime } from '$lib/server/runtime';
import { createEmptyShoot, createShoot } from '$lib/server/shoots/create';
import { listShoots } from '$lib/server/shoots/load-shoot';
import { answer, bodyOf } from '../answer';
import type { RequestHandler } from './$types';

const NewShoot = z.object({
	name: z.string().trim().min(1, 'Give the shoot a name.').max(200),
	/** Without one, files are dropped into the page. */
	folder: z.string().min(1, 'Choose a folder.').max(4096).optional()
});

export const GET: RequestHandler = () => answer(() => listShoots(getRuntime().database));

export const POST: RequestHandler = ({ request }) =>
	answer(async () => {
		const { name, folder } = NewShoot.parse(await bodyOf(request));
		const runtime = getRuntime();
		return { id: await (folder === undefined ? createEmptyShoot(runtime, name) : createShoot(runtime, name, folder)) };
	}, 201);
