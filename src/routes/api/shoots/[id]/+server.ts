import { API } from '$lib/contract/endpoints';
import { deleteShoot } from '$lib/server/shoots/delete';
import { answers, answersWritten } from '../../answer';

export const GET = answersWritten(API.shoot, ({ runtime, params: { id } }) => runtime.shoots.snapshot(id));

/** Takes it off the list; it can be brought back for a while. */
export const DELETE = answers(API.deleteShoot, ({ runtime, params: { id } }) => deleteShoot(runtime, id));
