import { API } from '$lib/contract/endpoints';
import { deleteShoot } from '$lib/server/shoots/delete';
import { readSnapshot } from '$lib/server/shoots/view';
import { answers } from '../../answer';

export const GET = answers(API.shoot, ({ runtime: { database }, params: { id } }) =>
	database.transaction((transaction) => readSnapshot(transaction, id))
);

/** Takes it off the list; it can be brought back for a while. */
export const DELETE = answers(API.deleteShoot, ({ runtime, params: { id } }) => deleteShoot(runtime, id));
