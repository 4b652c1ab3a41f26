import { API } from '$lib/contract/endpoints';
import { lineUpReport } from '$lib/server/stages/prove/line-up-report';
import { answers } from '../../../answer';

/** The proof of a line-up. */
export const GET = answers(API.report, ({ runtime, params: { id, lineUp } }) => lineUpReport(runtime, id, lineUp));
