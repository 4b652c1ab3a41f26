import { getRuntime } from '$lib/server/runtime';
import { LensWish, lookClosely } from '$lib/server/stages/prove/lens';
import { answer, bodyOf } from '../../../answer';
import { Identity } from '../../../identities';
import type { RequestHandler } from './$types';

/** How two clips agree at one passage. */
export const POST: RequestHandler = ({ params, request }) =>
	answer(async () => lookClosely(getRuntime(), Identity.parse(params.id), LensWish.parse(await bodyOf(request))));
