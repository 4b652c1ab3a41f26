import { API } from '$lib/contract/endpoints';
import { lookClosely } from '$lib/server/stages/prove/lens';
import { answers } from '../../../answer';

/** How two clips agree at one passage. */
export const POST = answers(API.lens, ({ runtime, params: { id }, input }) => lookClosely(runtime, id, input));
