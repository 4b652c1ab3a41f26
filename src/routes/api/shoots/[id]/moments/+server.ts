import { API } from '$lib/contract/endpoints';
import { loadMoments } from '$lib/server/stages/line-up/pair-moments';
import { answers } from '../../../answer';

/** The moments at which the engine compared a clip with others. */
export const GET = answers(API.moments, ({ runtime, params: { id, lineUp, clip } }) =>
	loadMoments(runtime.database, id, lineUp, clip)
);
