import { getRuntime } from '$lib/server/runtime';
import { deleteShoot } from '$lib/server/shoots/delete';
import { loadShoot } from '$lib/server/shoots/load-shoot';
import { answer } from '../../answer';
import { Identity } from '../../identities';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = ({ params }) =>
	answer(async () => loadShoot(getRuntime().database, Identity.parse(params.id)));

/** Takes it off the list; it can be brought back for a while. */
export const DELETE: RequestHandler = ({ params }) =>
	answer(async () => deleteShoot(getRuntime(), Identity.parse(params.id)));
