import { API } from '$lib/contract/endpoints';
import { answers } from '../../answer';

export const POST = answers(API.jobAction, ({ runtime: { queue }, params: { id }, input: { action } }) =>
	action === 'stop' ? queue.stop(id) : queue.retry(id)
);
