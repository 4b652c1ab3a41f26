import { getRuntime } from '$lib/server/runtime';
import { duplicateShoot } from '$lib/server/shoots/archive';
import { answer } from '../../../answer';
import { Identity } from '../../../identities';
import type { RequestHandler } from './$types';

export const POST: RequestHandler = ({ params }) =>
	answer(async () => ({ id: await duplicateShoot(getRuntime(), Identity.parse(params.id)) }), 201);
