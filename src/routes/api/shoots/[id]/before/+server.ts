import { getRuntime } from '$lib/server/runtime';
import { placesBefore } from '$lib/server/stages/prove/places-before';
import { answer } from '../../../answer';
import { Identity } from '../../../identities';
import type { RequestHandler } from './$types';

/** Where clips lay before the last change. */
export const GET: RequestHandler = ({ params }) =>
	answer(async () => ({ change: await placesBefore(getRuntime().database, Identity.parse(params.id)) }));
