import { API } from '$lib/contract/endpoints';
import { answers } from '../../../answer';

/** What the editor looks at is prepared before the rest. */
export const POST = answers(API.watch, ({ runtime, params: { id }, input }) => {
	runtime.watched.set(id, input);
});
