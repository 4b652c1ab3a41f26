import { getRuntime } from '$lib/server/runtime';
import { bringBackShoot } from '$lib/server/shoots/delete';
import { answer } from '../../../answer';
import { Identity } from '../../../identities';
import type { RequestHandler } from './$types';

export const POST: RequestHandler = ({ params }) =>
	answer(async () => bringBackShoot(getRuntime(), Identity.parse(params.id)));
