import { API } from '$lib/contract/endpoints';
import { readJudgement } from '$lib/server/stages/master/measure';
import { answers } from '../../../answer';

/** What was measured of a line-up's sources, and who speaks when. */
export const GET = answers(API.sources, ({ runtime, params: { id, lineUp } }) => readJudgement(runtime, id, lineUp));
