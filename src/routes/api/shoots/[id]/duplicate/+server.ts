import { API } from '$lib/contract/endpoints';
import { duplicateShoot } from '$lib/server/shoots/archive';
import { answers } from '../../../answer';

export const POST = answers(
	API.duplicate,
	async ({ runtime, params: { id } }) => ({ id: await duplicateShoot(runtime, id) }),
	201
);
