import { API } from '$lib/contract/endpoints';
import { placesBefore } from '$lib/server/stages/prove/places-before';
import { answers } from '../../../answer';

/** Where clips lay before the last change. */
export const GET = answers(API.before, async ({ runtime, params: { id } }) => ({
	change: await placesBefore(runtime.database, id)
}));
