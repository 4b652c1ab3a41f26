import { API } from '$lib/contract/endpoints';
import { createEmptyShoot, createShoot } from '$lib/server/shoots/create';
import { listShoots } from '$lib/server/shoots/view';
import { answers } from '../answer';

export const GET = answers(API.shoots, ({ runtime }) => listShoots(runtime.database));

export const POST = answers(
	API.newShoot,
	async ({ runtime, input: { name, folder } }) => ({
		id: await (folder === undefined ? createEmptyShoot(runtime, name) : createShoot(runtime, name, folder))
	}),
	201
);
