import { z } from 'zod';
import { getRuntime } from '$lib/server/runtime';
import { createShoot } from '$lib/server/shoots/create-shoot';
import { listShoots } from '$lib/server/shoots/load-shoot';
import { answer, bodyOf } from '../answer';
import type { RequestHandler } from './$types';

const NewShoot = z.object({
	name: z.string().trim().min(1, 'Give the shoot a name.').max(200),
	folder: z.string().min(1, 'Choose a folder.').max(4096)
});

export const GET: RequestHandler = () => answer(() => listShoots(getRuntime().database));

export const POST: RequestHandler = ({ request }) =>
	answer(async () => {
		const { name, folder } = NewShoot.parse(await bodyOf(request));
		return { id: await createShoot(getRuntime(), name, folder) };
	}, 201);
