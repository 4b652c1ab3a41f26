import { getRuntime } from '$lib/server/runtime';
import { restoreShoot } from '$lib/server/shoots/archive';
import { ShootError } from '$lib/server/shoots/shoot-error';
import { answer } from '../answer';
import type { RequestHandler } from './$types';

const MOST_BYTES = 64 * 2 ** 20;

/** Makes a shoot of an archive. */
export const POST: RequestHandler = ({ request }) =>
	answer(async () => {
		if (Number(request.headers.get('content-length') ?? Infinity) > MOST_BYTES)
			throw new ShootError('not-possible', 'That is too large for an archive of a shoot.');
		const bytes = new Uint8Array(await request.arrayBuffer());
		return { id: await restoreShoot(getRuntime(), bytes) };
	}, 201);
