import { getRuntime } from '$lib/server/runtime';
import { restoreShoot } from '$lib/server/shoots/archive';
import { ShootError } from '$lib/server/shoots/shoot-error';
import { json } from '@sveltejs/kit';
import { refuse } from '../answer';
import type { RequestHandler } from './$types';

const MAX_BYTES = 64 * 2 ** 20;

/** Makes a shoot of an archive. */
export const POST: RequestHandler = async ({ request }) => {
	try {
		if (Number(request.headers.get('content-length') ?? Infinity) > MAX_BYTES)
			throw new ShootError('too-large', 'That is too large for an archive of a shoot.');
		const bytes = new Uint8Array(await request.arrayBuffer());
		return json({ id: await restoreShoot(getRuntime(), bytes) }, { status: 201 });
	} catch (error) {
		return refuse(error);
	}
};
