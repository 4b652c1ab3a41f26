import { API } from '$lib/contract/endpoints';
import { answers } from '../../../answer';

/** What the editor looks at is prepared before the rest. */
export const POST = answers(API.watch, ({ runtime, params: { id }, input: { fileIds } }) => {
	runtime.watched.set(id, new Set(fileIds));
});
