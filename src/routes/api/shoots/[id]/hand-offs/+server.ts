import { API } from '$lib/contract/endpoints';
import { beginHandOff } from '$lib/server/stages/hand-off/make-hand-off';
import { answers } from '../../../answer';

export const POST = answers(API.handOff, ({ runtime, params: { id }, input }) => beginHandOff(runtime, id, input), 201);
