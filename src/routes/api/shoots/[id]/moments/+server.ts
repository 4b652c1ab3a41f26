import { getRuntime } from '$lib/server/runtime';
import { loadMoments } from '$lib/server/stages/line-up/pair-moments';
import { answer } from '../../../answer';
import { Identity } from '../../../identities';
import type { RequestHandler } from './$types';

/** The moments at which the engine compared a clip with others. */
export const GET: RequestHandler = ({ url }) =>
	answer(async () =>
		loadMoments(
			getRuntime().database,
			Identity.parse(url.searchParams.get('lineUp')),
			Identity.parse(url.searchParams.get('clip'))
		)
	);
