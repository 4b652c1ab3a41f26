import { getRuntime } from '$lib/server/runtime';
import { restoreShoot } from '$lib/server/shoots/archive';
import { json } from '@sveltejs/kit';
import { refuse } from '../answer';
import { readBody } from '../read-body';
import type { RequestHandler } from './$types';

const MAX_BYTES = 64 * 2 ** 20;

/** Makes a shoot of an archive. */
export const POST: RequestHandler = async ({ request }) => {
	try {
		const bytes = await readBody(request, MAX_BYTES, 'That is too large for an archive of a shoot.');
		return json({ id: await restoreShoot(getRuntime(), bytes) }, { status: 201 });
	} catch (error) {
		return refuse(error);
	}
};
