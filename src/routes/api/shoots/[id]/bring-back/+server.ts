import { API } from '$lib/contract/endpoints';
import { bringBackShoot } from '$lib/server/shoots/delete';
import { answers } from '../../../answer';

export const POST = answers(API.bringBack, ({ runtime, params: { id } }) => bringBackShoot(runtime, id));
