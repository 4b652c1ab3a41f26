import { API } from '$lib/contract/endpoints';
import { addSource } from '$lib/server/stages/gather/sources';
import { answers } from '../../../answer';

export const POST = answers(
	API.addSource,
	({ runtime, params: { id }, input: { folder } }) => addSource(runtime, id, folder),
	201
);
