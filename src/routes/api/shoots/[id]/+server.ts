import { getRuntime } from '$lib/server/runtime';
import { loadShoot } from '$lib/server/shoots/load-shoot';
import { answer } from '../../answer';
import { Identity } from '../../identities';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = ({ params }) =>
	answer(async () => loadShoot(getRuntime().database, Identity.parse(params.id)));
