import { API } from '$lib/contract/endpoints';
import { findAgain } from '$lib/server/stages/gather/find-again';
import { answers } from '../../../answer';

export const POST = answers(API.findAgain, ({ runtime, params: { id }, input: { folder } }) =>
	findAgain(runtime, id, folder)
);
